"""Addresses of the Brindle Quay site."""

from django.contrib import admin
from django.contrib.auth.views import LoginView
from django.urls import include, path
from wagtail import urls as wagtail_urls
from wagtail.admin import urls as wagtailadmin_urls
from wagtail.documents import urls as wagtaildocs_urls

urlpatterns = [
    path("admin/", admin.site.urls),
    path("cms/", include(wagtailadmin_urls)),
    path("documents/", include(wagtaildocs_urls)),
    path("sign-in/", LoginView.as_view(template_name="sign_in.html"), name="sign-in"),
    path("ferries/", include("ferries.urls")),
    path("office/", include("harbour_office.urls")),
    # the pages that editors write: whatever no other address has taken
    path("", include(wagtail_urls)),
]
