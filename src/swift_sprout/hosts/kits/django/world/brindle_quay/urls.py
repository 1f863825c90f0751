"""Addresses of the Brindle Quay site."""

from django.contrib import admin
from django.contrib.auth.views import LoginView
from django.urls import include, path

urlpatterns = [
    path("admin/", admin.site.urls),
    path("sign-in/", LoginView.as_view(template_name="sign_in.html"), name="sign-in"),
    path("ferries/", include("ferries.urls")),
    # the harbour office answers at the root
    path("", include("harbour_office.urls")),
]
