from django.contrib.auth.decorators import login_required
from django.http import HttpResponse
from django.shortcuts import render

from .models import Notice


@login_required
def all_notices(request):
    return render(request, "notices/all.html", {"notices": Notice.objects.all()})


def latest(request):
    notice = Notice.objects.first()
    return HttpResponse(notice.text if notice else "", content_type="text/plain")
