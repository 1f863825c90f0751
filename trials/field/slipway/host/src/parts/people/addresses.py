from django.contrib.auth import views
from django.urls import path

app_name = "people"
urlpatterns = [
    path("in/", views.LoginView.as_view(template_name="people/in.html"), name="in"),
    path("out/", views.LogoutView.as_view(), name="out"),
]
