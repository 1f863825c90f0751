from django import template

register = template.Library()


@register.filter
def pennant(text):
    return f"⚑ {text}"
