from django.conf import settings
from django.conf.urls.i18n import i18n_patterns
from django.contrib import admin
from django.urls import include, path, re_path
from django.views.generic import TemplateView

urlpatterns = [
    path("admin/", admin.site.urls),
]

urlpatterns += i18n_patterns(
    path("voyages/", include("apps.voyages.urls")),
    prefix_default_language=False,
)

if settings.DEBUG:
    urlpatterns += [path("__inspect__/", include("apps.inspector.urls"))]
else:
    urlpatterns += [
        path("robots.txt", TemplateView.as_view(template_name="robots.txt")),
    ]

# the single-page application answers for all that is left
urlpatterns += [
    re_path(r"^(?!static/).*$", TemplateView.as_view(template_name="index.html")),
]
