from django.urls import path

from .views import CrewView, person

app_name = "crew"
urlpatterns = [path("", CrewView.as_view(), name="all"), path("<int:pk>/", person, name="person")]
