from django.shortcuts import get_object_or_404
from django.views.generic import DetailView, ListView

from ..models import Slip


class Board(ListView):
    queryset = Slip.objects.prefetch_related("hauls")
    template_name = "slips/board.html"


class SlipPage(DetailView):
    model = Slip
    template_name = "slips/slip.html"

    def get_object(self, queryset=None):
        return get_object_or_404(Slip, number=self.kwargs["number"])
