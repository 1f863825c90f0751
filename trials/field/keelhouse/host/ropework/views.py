from django.shortcuts import render
from django.views.generic import ListView

from .models import Coil


class Coils(ListView):
    model = Coil


def desk(request):
    return render(request, "ropework/desk.html", {"coils": Coil.objects.select_related("product")})
