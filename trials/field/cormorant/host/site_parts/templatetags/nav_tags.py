from django import template
from wagtail.models import Site

register = template.Library()


@register.inclusion_tag("site_parts/menu.html", takes_context=True)
def top_menu(context):
    site = Site.find_for_request(context["request"])
    items = site.root_page.get_children().live().in_menu() if site else []
    return {"items": items, "request": context["request"]}
