from django import template

register = template.Library()


@register.inclusion_tag("articles/topics.html")
def topics_of(page):
    return {"topics": page.topics.all()}
