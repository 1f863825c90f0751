from articles import views as article_views
from django.conf import settings
from django.conf.urls.static import static
from django.contrib import admin
from django.urls import include, path
from wagtail import urls as wagtail_urls
from wagtail.admin import urls as wagtailadmin_urls
from wagtail.documents import urls as wagtaildocs_urls

from .api import api_router

urlpatterns = [
    path("django-admin/", admin.site.urls),
    path("cms/", include(wagtailadmin_urls)),
    path("documents/", include(wagtaildocs_urls)),
    path("api/v2/", api_router.urls),
    path("search/", article_views.search, name="search"),
    path("crew/", include("crew.urls")),
    *static(settings.MEDIA_URL, document_root=settings.MEDIA_ROOT),
    path("", include(wagtail_urls)),
]
