from django.apps import apps
from django.conf import settings
from django.conf.urls.static import static
from django.contrib import admin
from django.urls import include, path

urlpatterns = [
    path("i18n/", include("django.conf.urls.i18n")),
    path("admin/", admin.site.urls),
    path("signals/", apps.get_app_config("signalbook").urls),
    path("dashboard/stocktake/", apps.get_app_config("stocktake").urls),
    path("slate/", include("slate.urls")),
    path("", include(apps.get_app_config("oscar").urls[0])),
]
urlpatterns += static(settings.MEDIA_URL, document_root=settings.MEDIA_ROOT)
