from django.apps import apps
from django.conf.urls import include
from django.contrib import admin
from django.urls import path, re_path

shop = apps.get_app_config("oscar")

urlpatterns = [
    re_path(r"^i18n/", include("django.conf.urls.i18n")),
    re_path(r"^admin/", admin.site.urls),
    path("coils/", include("ropework.addresses", namespace="ropework")),
    re_path(r"^", include(shop.urls[0])),
]
