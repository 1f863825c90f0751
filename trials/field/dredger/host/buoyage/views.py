from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.views.decorators.cache import cache_page

from .models import Buoy


def buoys(request):
    page = Paginator(Buoy.objects.select_related("near"), 25).get_page(request.GET.get("page"))
    return render(request, "buoyage/buoys.html", {"page": page})


@cache_page(60)
def buoy(request, number):
    return render(request, "buoyage/buoy.html", {"buoy": get_object_or_404(Buoy, number=number)})


def of_colour(request, colour):
    found = Buoy.objects.filter(colour=colour)
    return render(request, "buoyage/buoys.html", {"page": Paginator(found, 25).get_page(1)})
