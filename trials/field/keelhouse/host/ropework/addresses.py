from django.contrib.admin.views.decorators import staff_member_required
from django.urls import path

from . import views

app_name = "ropework"
urlpatterns = [
    path("", views.Coils.as_view(), name="coils"),
    path("desk/", staff_member_required(views.desk), name="desk"),
]
