from django.urls import path

from . import views

app_name = "pilotage"
urlpatterns = [
    path("", views.pilots, name="pilots"),
    path("pilot/<int:pk>/", views.PilotPage.as_view(), name="pilot"),
    path("plan/", views.plan, name="plan"),
    path("watches/new/", views.NewWatch.as_view(), name="new_watch"),
    path("rules/", views.Rules.as_view(), name="rules"),
]
