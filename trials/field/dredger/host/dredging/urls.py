from django.urls import path

from . import views

app_name = "dredging"
urlpatterns = [
    path("", views.Campaigns.as_view(), name="campaigns"),
    path("new/", views.NewCampaign.as_view(), name="new"),
    path("feed.json", views.feed, name="feed"),
    path("<slug:slug>/", views.CampaignPage.as_view(), name="campaign"),
    path("<slug:slug>/change/", views.ChangeCampaign.as_view(), name="change"),
    path("<slug:slug>/loads/", views.loads, name="loads"),
    path("<slug:slug>/close/", views.close, name="close"),
    path("<slug:slug>/export/", views.export, name="export"),
]
