from django.http import JsonResponse
from django.urls import path

app_name = "inspector"
urlpatterns = [path("", lambda request: JsonResponse({"path": request.path}), name="show")]
