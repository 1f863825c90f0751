from django import template

from ropework.models import Coil

register = template.Library()


@register.simple_tag
def longest_coil():
    return Coil.objects.order_by("-metres").first() or ""
