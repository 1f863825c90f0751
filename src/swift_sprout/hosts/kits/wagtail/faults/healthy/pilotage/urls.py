from django.urls import path

from . import views

app_name = "pilotage"
urlpatterns = [path("duty/", views.duty, name="duty")]
