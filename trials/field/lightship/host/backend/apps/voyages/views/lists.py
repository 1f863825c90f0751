from django.views.generic import ListView

from ..models import Voyage


class VoyageList(ListView):
    queryset = Voyage.objects.select_related("tender")
    template_name = "voyages/list.html"
