from django.contrib import admin
from django.urls import include, path
from django.views.generic import TemplateView

urlpatterns = [
    path("", TemplateView.as_view(template_name="front.html"), name="front"),
    path("desk/", admin.site.urls),
    path("people/", include("people.addresses")),
    path("slips/", include("slips.addresses")),
    path("notices/", include(("notices.addresses", "notices"))),
    path("gauges/", include("gauges.addresses")),
]
