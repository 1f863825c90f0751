from django.contrib import messages
from django.contrib.auth.decorators import permission_required
from django.contrib.auth.mixins import LoginRequiredMixin
from django.shortcuts import render
from django.urls import reverse_lazy
from django.views.generic import CreateView, DetailView, TemplateView

from .forms import WatchForm
from .models import Pilot


def pilots(request):
    return render(request, "pilotage/pilots.html", {"pilots": Pilot.objects.all(), "title": "Pilots"})


class PilotPage(DetailView):
    model = Pilot
    template_name = "pilotage/pilot.html"


@permission_required("pilotage.plan_watches")
def plan(request):
    return render(request, "pilotage/plan.html", {"title": "Plan of watches"})


class NewWatch(LoginRequiredMixin, CreateView):
    form_class = WatchForm
    template_name = "pilotage/new_watch.html"
    success_url = reverse_lazy("pilotage:pilots")

    def form_valid(self, form):
        messages.success(self.request, "The watch is kept.")
        return super().form_valid(form)


class Rules(LoginRequiredMixin, TemplateView):
    template_name = "pilotage/rules.html"
