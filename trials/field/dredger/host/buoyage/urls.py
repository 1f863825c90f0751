from django.urls import path, re_path, register_converter

from . import views


class ShortNumber:
    regex = "[0-9]{1,3}"

    def to_python(self, value):
        return int(value)

    def to_url(self, value):
        return str(value)


register_converter(ShortNumber, "short")
urlpatterns = [
    path("", views.buoys, name="buoys"),
    path("<short:number>/", views.buoy, name="buoy"),
    re_path(r"^colour/(?P<colour>red|green)/$", views.of_colour, name="colour"),
]
