from django.urls import path

from .views import all_notices, latest

urlpatterns = [
    path("", all_notices, name="all"),
    path("latest.txt", latest, name="latest"),
]
