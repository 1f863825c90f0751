from django.shortcuts import redirect
from django.urls import reverse
from django.views.generic import FormView
from oscar.apps.checkout import views
from oscar.core.loading import get_class, get_model

from .forms import LandingForm

CheckoutSessionMixin = get_class("checkout.session", "CheckoutSessionMixin")
Source = get_model("payment", "Source")
SourceType = get_model("payment", "SourceType")


class LandingView(CheckoutSessionMixin, FormView):
    form_class = LandingForm
    template_name = "oscar/checkout/landing.html"
    pre_conditions = ["check_basket_is_not_empty"]

    def form_valid(self, form):
        self.checkout_session._set("hawser", "landing", form.cleaned_data["landing"])
        return redirect(reverse("checkout:payment-method"))


class ThankYouView(views.ThankYouView):
    def get_context_data(self, **kwargs):
        return super().get_context_data(**kwargs, landing=self.request.session.get("landing"))


class PaymentDetailsView(views.PaymentDetailsView):
    def handle_payment(self, order_number, total, **kwargs):
        source_type, _ = SourceType.objects.get_or_create(name="Slate")
        source = Source(source_type=source_type, amount_allocated=total.incl_tax)
        self.add_payment_source(source)
        self.add_payment_event("Slate", total.incl_tax)
