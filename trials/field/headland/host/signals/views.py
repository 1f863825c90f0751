from django.http import JsonResponse

from .models import Signal


def now(request):
    return JsonResponse({"up": list(Signal.objects.values_list("name", flat=True))})
