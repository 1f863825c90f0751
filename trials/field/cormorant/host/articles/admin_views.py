from django.shortcuts import render
from wagtail.admin.auth import permission_required

from .models import ArticlePage


@permission_required("articles.change_articlepage")
def drafts(request):
    return render(request, "articles/drafts.html", {"drafts": ArticlePage.objects.not_live().order_by("title")})
