from django.http import JsonResponse
from django.urls import path

from .readings import now

app_name = "gauges"


def table(request):
    return JsonResponse(now())


urlpatterns = [path("table.json", table, name="table")]
