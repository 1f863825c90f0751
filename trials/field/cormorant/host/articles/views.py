from django.core.paginator import Paginator
from django.shortcuts import render
from wagtail.contrib.search_promotions.models import Query
from wagtail.models import Page


def search(request):
    asked = request.GET.get("query", None)
    found = Page.objects.live().search(asked) if asked else Page.objects.none()
    if asked:
        Query.get(asked).add_hit()
    results = Paginator(found, 10).get_page(request.GET.get("page"))
    return render(request, "articles/search.html", {"asked": asked, "results": results})
