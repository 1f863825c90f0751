from .models import Signal


def signal_of_the_day(request):
    return {"signal_of_the_day": Signal.objects.first()}
