from .models import Notice


def flying(request):
    return {"flying": Notice.objects.filter(down=False)[:3]}
