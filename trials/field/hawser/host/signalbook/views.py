from django.contrib import messages
from django.shortcuts import redirect, render
from django.views.generic import ListView
from oscar.core.loading import get_class, get_model

from .forms import AskForm
from .models import Signal

PageTitleMixin = get_class("customer.mixins", "PageTitleMixin")
Product = get_model("catalogue", "Product")


class SignalsView(ListView):
    model = Signal
    template_name = "signalbook/signals.html"
    context_object_name = "signals"
    paginate_by = 20

    def get_queryset(self):
        return super().get_queryset().select_related("product")


class MineView(PageTitleMixin, ListView):
    template_name = "signalbook/mine.html"
    context_object_name = "signals"
    active_tab = "signals"
    page_title = "My signals"

    def get_queryset(self):
        return Signal.objects.filter(kept_by=self.request.user)


def ask(request):
    form = AskForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        form.save()
        messages.info(request, "Noted.")
        return redirect("signalbook:signals")
    return render(request, "signalbook/ask.html", {"form": form, "products": Product.objects.browsable().count()})
