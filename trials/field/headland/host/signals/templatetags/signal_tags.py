from django import template

from ..models import Signal

register = template.Library()


@register.inclusion_tag("signals/up.html")
def signals_up():
    return {"signals": Signal.objects.all()}
