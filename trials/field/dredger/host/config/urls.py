from django.contrib import admin
from django.urls import include, path
from django.views.generic import RedirectView

urlpatterns = [
    path("", RedirectView.as_view(pattern_name="dredging:campaigns"), name="home"),
    path("admin/", admin.site.urls),
    path("people/", include("people.urls")),
    path("dredging/", include("dredging.urls", namespace="dredging")),
    path("buoys/", include(("buoyage.urls", "buoyage"))),
]
