from django.urls import path

from . import views

app_name = "slips"
urlpatterns = [
    path("", views.Board.as_view(), name="board"),
    path("order/", views.Order.as_view(), name="order"),
    path("<int:number>/", views.SlipPage.as_view(), name="slip"),
]
