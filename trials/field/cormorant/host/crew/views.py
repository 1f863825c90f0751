from django.shortcuts import get_object_or_404, render
from django.views.generic import ListView

from .models import Person


class CrewView(ListView):
    queryset = Person.objects.filter(live=True).select_related("portrait")
    context_object_name = "people"
    template_name = "crew/all.html"


def person(request, pk):
    return render(request, "crew/person.html", {"person": get_object_or_404(Person, pk=pk, live=True)})
