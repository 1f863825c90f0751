from django.contrib.auth import views as auth
from django.urls import path

from . import views

app_name = "people"
urlpatterns = [
    path("in/", auth.LoginView.as_view(template_name="people/login.html"), name="login"),
    path("out/", auth.LogoutView.as_view(), name="logout"),
    path("me/", views.Me.as_view(), name="me"),
]
