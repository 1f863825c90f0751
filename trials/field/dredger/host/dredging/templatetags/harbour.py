from django import template

from ..models import Campaign

register = template.Library()


@register.filter
def tonnes(value):
    return f"{value or 0} t"


@register.inclusion_tag("dredging/latest.html")
def latest_campaigns(number):
    return {"latest": Campaign.objects.order_by("-begins")[:number]}


@register.simple_tag(takes_context=True)
def with_page(context, number):
    query = context["request"].GET.copy()
    query["page"] = number
    return f"?{query.urlencode()}"
