from django.conf import settings


def harbour(request):
    return {"harbour_name": settings.HARBOUR_NAME}
