from django.contrib import messages
from django.contrib.auth.decorators import permission_required
from django.contrib.auth.mixins import LoginRequiredMixin, PermissionRequiredMixin
from django.http import HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST
from django.views.generic import CreateView, DetailView, ListView, UpdateView

from .forms import CampaignForm, LoadFormSet, SearchForm
from .models import Campaign


class Campaigns(ListView):
    model = Campaign
    paginate_by = 20
    context_object_name = "campaigns"

    def get_queryset(self):
        self.form = SearchForm(self.request.GET)
        found = super().get_queryset().with_totals().select_related("master")
        if self.form.is_valid():
            if self.form.cleaned_data["q"]:
                found = found.filter(title__icontains=self.form.cleaned_data["q"])
            if self.form.cleaned_data["kind"]:
                found = found.filter(kind=self.form.cleaned_data["kind"])
        return found

    def get_context_data(self, **kwargs):
        return super().get_context_data(search=self.form, **kwargs)


class CampaignPage(DetailView):
    queryset = Campaign.objects.prefetch_related("loads", "crew")


class NewCampaign(LoginRequiredMixin, CreateView):
    form_class = CampaignForm
    model = Campaign

    def form_valid(self, form):
        form.instance.master = self.request.user
        messages.success(self.request, "Begun.")
        return super().form_valid(form)


class ChangeCampaign(PermissionRequiredMixin, UpdateView):
    permission_required = "dredging.change_campaign"
    form_class = CampaignForm
    model = Campaign


def loads(request, slug):
    campaign = get_object_or_404(Campaign, slug=slug)
    formset = LoadFormSet(request.POST or None, instance=campaign)
    if request.method == "POST" and formset.is_valid():
        formset.save()
        return redirect(campaign)
    return render(request, "dredging/loads.html", {"campaign": campaign, "formset": formset})


@permission_required("dredging.close_campaign", raise_exception=True)
@require_POST
def close(request, slug):
    campaign = get_object_or_404(Campaign.objects.running(), slug=slug)
    campaign.ends = timezone.localdate()
    campaign.full_clean()
    campaign.save(update_fields=["ends"])
    return redirect(reverse("dredging:campaign", args=[slug]))


def feed(request):
    rows = Campaign.objects.with_totals().values("title", "slug", "tonnes")
    return JsonResponse({"campaigns": list(rows)})


def export(request, slug):
    campaign = get_object_or_404(Campaign, slug=slug)
    lines = [f"{load.created:%Y-%m-%d};{load.tonnes}" for load in campaign.loads.all()]
    return HttpResponse("\n".join(lines) or "none", content_type="text/plain")
