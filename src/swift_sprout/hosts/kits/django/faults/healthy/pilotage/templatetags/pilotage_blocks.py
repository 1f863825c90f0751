from django import template

from ..models import Pilot

register = template.Library()


@register.inclusion_tag("pilotage/watch_block.html")
def pilots_on_watch():
    return {"pilots": Pilot.objects.filter(on_watch=True)}
