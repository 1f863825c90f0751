from django.urls import path

from .views import VoyageList

app_name = "voyages"
urlpatterns = [
    path("", VoyageList.as_view(), name="list"),
]
