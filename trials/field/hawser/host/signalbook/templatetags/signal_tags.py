from django import template
from oscar.core.loading import get_model

register = template.Library()


@register.inclusion_tag("signalbook/flags.html")
def flags_of(product):
    return {"signals": get_model("signalbook", "Signal").objects.filter(product=product)}


@register.filter
def knots(value):
    return f"{value} kn"
