from django.shortcuts import render
from django.urls import reverse_lazy
from django.views.generic import CreateView, ListView
from oscar.core.loading import get_model

from .models import Pilot


def on_duty(request):
    pilots = Pilot.objects.filter(on_duty=True)
    partners = get_model("partner", "Partner").objects.count()
    return render(request, "pilotage/on_duty.html", {"pilots": pilots, "partners": partners})


class PilotList(ListView):
    model = Pilot
    template_name = "pilotage/pilot_list.html"


class AddPilot(CreateView):
    model = Pilot
    fields = ["name", "on_duty"]
    template_name = "pilotage/pilot_form.html"
    success_url = reverse_lazy("pilotage:pilot-list")
