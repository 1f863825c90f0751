from django.urls import path

from . import views

app_name = "slate"
urlpatterns = [
    path("desk/", views.desk, name="desk"),
    path("<int:pk>/wipe/", views.wipe, name="wipe"),
    path("mine/", views.mine, name="mine"),
]
