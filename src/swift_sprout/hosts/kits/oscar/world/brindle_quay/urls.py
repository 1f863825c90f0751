"""Addresses of the Brindle Quay shop."""

from django.apps import apps
from django.conf import settings
from django.conf.urls.static import static
from django.contrib import admin
from django.urls import include, path

urlpatterns = [
    *static(settings.MEDIA_URL, document_root=settings.MEDIA_ROOT),
    path("i18n/", include("django.conf.urls.i18n")),
    path("admin/", admin.site.urls),
    path("ferries/", include("ferries.urls")),
    path("office/", include("harbour_office.urls")),
    # the shop answers at the root
    path("", include(apps.get_app_config("oscar").urls[0])),
]
