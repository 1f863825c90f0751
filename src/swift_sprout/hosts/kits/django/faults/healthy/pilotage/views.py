from django.contrib.auth.decorators import permission_required
from django.contrib.auth.mixins import LoginRequiredMixin
from django.shortcuts import render
from django.views.generic import DetailView, TemplateView

from .models import Pilot


def pilots(request):
    return render(request, "pilotage/pilots.html", {"pilots": Pilot.objects.all(), "title": "Pilots"})


class PilotPage(DetailView):
    model = Pilot
    template_name = "pilotage/pilot.html"


@permission_required("pilotage.plan_watches")
def plan(request):
    return render(request, "pilotage/plan.html", {"title": "Plan of watches"})


class Rules(LoginRequiredMixin, TemplateView):
    template_name = "pilotage/rules.html"
