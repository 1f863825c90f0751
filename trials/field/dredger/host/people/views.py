from django.contrib.auth.mixins import LoginRequiredMixin
from django.urls import reverse_lazy
from django.views.generic import UpdateView

from .models import Keeper


class Me(LoginRequiredMixin, UpdateView):
    model = Keeper
    fields = ["badge", "station"]
    template_name = "people/me.html"
    success_url = reverse_lazy("people:me")

    def get_object(self, queryset=None):
        return self.request.user
