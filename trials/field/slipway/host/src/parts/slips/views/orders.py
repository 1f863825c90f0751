from django.conf import settings
from django.contrib.auth.mixins import PermissionRequiredMixin
from django.urls import reverse_lazy
from django.views.generic import CreateView

from ..models import Haul


class Order(PermissionRequiredMixin, CreateView):
    model = Haul
    fields = ["vessel", "slip"]
    permission_required = "slips.order_haul"
    template_name = "slips/order.html"
    success_url = reverse_lazy("slips:board")

    def get_context_data(self, **given):
        return super().get_context_data(longest=settings.LONGEST_VESSEL, **given)

    def form_valid(self, form):
        form.instance.hand = self.request.user
        return super().form_valid(form)
