"""The forms that pages have shown, filled in and sent to the code behind them, in the copies of the databases only.

Their code runs when somebody sends them, which a check that only asks for pages never sees. Nothing of it stays: what
is written to a database is rolled back, what goes to the media folder goes elsewhere, files that somebody would upload
are left out, and nobody outside is asked.
"""

import copy
import datetime
import uuid

from sprout_inside import nobody_outside, told

SHOWN = {}  # the first form of each class that a page has drawn, with its page's view where that has one, and request


def note_forms(context):
    """Note the forms that a template is given."""
    from django.forms import BaseForm

    for given in context.dicts:
        for held in given.values():
            if isinstance(held, BaseForm):
                view = context.get("view")
                kept = SHOWN.get(type(held))
                if kept is None or (kept[1] is None and view is not None):
                    SHOWN[type(held)] = held, view, getattr(context, "request", None)


def try_forms(modules, root, scratch):
    """Send each form of the modules; returns what fails: form, view, what was done, and the error.

    scratch -- a folder that takes the place of the host's media
    """
    from contextlib import ExitStack

    from django.db import connections, transaction
    from django.test import override_settings

    found = []
    for form, view, request in list(SHOWN.values()):
        code = [type(form).__module__, type(view).__module__, module_of_controller(request)]
        if not any(one == name or one.startswith(f"{name}.") for one in code for name in modules):
            continue
        with ExitStack() as stack:
            stack.enter_context(nobody_outside())
            stack.enter_context(override_settings(MEDIA_ROOT=scratch))
            for alias in connections:
                stack.enter_context(transaction.atomic(using=alias))
            failed = failure_of(form, view, request)
            if failed is not None:
                doing, error = failed
                entry = {"form": spelled(form), "view": spelled(view) if view is not None else "", "doing": doing}
                found.append({**entry, "module": code[2], "error": told(error, root)})
            for alias in connections:
                transaction.set_rollback(True, using=alias)
    connections.close_all()
    return found


def spelled(held):
    return f"{type(held).__module__}.{type(held).__qualname__}"


def module_of_controller(request):
    match = getattr(request, "resolver_match", None)
    return getattr(match.func, "__module__", "") if match is not None else ""


def failure_of(form, view, request):
    """Return what was done and the error of it, or None where a form can be sent, or nobody can tell."""
    sent = copy.copy(form)
    try:
        fill(sent)
    except Exception:
        return None  # nothing is known of a value
    try:
        sent.full_clean()
    except BaseException as error:
        wanted = error.args[0] if isinstance(error, KeyError) and error.args else None
        if wanted in sent.fields and wanted in sent.errors:
            return None  # what it looks for is refused, because it is made up
        return "checking", error
    if sent.errors or any(needs_file(one) for one in sent.fields.values()):
        return None
    try:
        if hasattr(view, "form_valid"):
            view.form_valid(sent)
        elif view is None and request is not None:
            send_as(request, sent.data)
    except BaseException as error:
        return "sending", error
    return None


def send_as(request, data):
    """Send what a form holds to the page that showed it, as the person who saw it there."""
    from django.test import Client

    client = Client()
    client.cookies.load(request.COOKIES)
    written = {key: [one for one in values if one is not None] for key, values in data.lists()}
    client.post(request.get_full_path(), written, HTTP_HOST=request.get_host())


def needs_file(field):
    from django.forms import FileField

    return isinstance(field, FileField) and field.required


def fill(form):
    """Bind a form to what somebody could have written into it."""
    from django.forms import FileField, MultiValueField, MultiWidget
    from django.utils.datastructures import MultiValueDict

    form.is_bound = True
    form._errors = None
    form.files = MultiValueDict()
    form.data = MultiValueDict()
    form.__dict__.pop("_bound_fields_cache", None)
    form._bound_fields_cache = {}
    for name, field in form.fields.items():
        key = form.add_prefix(name)
        if isinstance(field.widget, MultiWidget) and isinstance(field, MultiValueField):
            for suffix, part in zip(field.widget.widgets_names, field.fields, strict=False):
                form.data[key + suffix] = value_of(part, None)
            continue
        value = None if isinstance(field, FileField) else value_of(field, form.get_initial_for_field(field, name))
        if isinstance(field.widget, MultiWidget):
            for suffix, part in zip(field.widget.widgets_names, field.widget.decompress(value), strict=False):
                form.data[key + suffix] = part
        elif isinstance(value, (list, tuple)):
            form.data.setlist(key, list(value))
        elif value is not None:
            form.data[key] = value


def value_of(field, initial):
    """Return a value that a field takes: what it begins with, or one of its type."""
    from django import forms

    if isinstance(field, forms.ModelMultipleChoiceField):
        return list(field.queryset.values_list("pk", flat=True)[:1])
    if isinstance(field, forms.ModelChoiceField):
        first = field.queryset.first()
        return None if first is None else field.prepare_value(first)
    if isinstance(field, forms.MultipleChoiceField):
        return choices_of(field)[:1]
    if isinstance(field, forms.BooleanField) and field.required:
        return True
    if initial not in (None, ""):
        return field.prepare_value(initial)
    if isinstance(field, (forms.ChoiceField, forms.TypedChoiceField)):
        return next(iter(choices_of(field)), None)
    if isinstance(field, (forms.IntegerField, forms.FloatField, forms.DecimalField)):
        least = field.min_value() if callable(field.min_value) else field.min_value
        return 1 if least is None else max(1, least)
    kinds = (
        (forms.BooleanField, False),
        (forms.EmailField, "probe@example.org"),
        (forms.URLField, "https://example.org/"),
        (forms.UUIDField, uuid.UUID(int=1)),
        (forms.DateTimeField, datetime.datetime(2026, 11, 23, 6, 30)),
        (forms.DateField, datetime.date(2026, 11, 23)),
        (forms.TimeField, datetime.time(6, 30)),
        (forms.DurationField, datetime.timedelta(hours=1)),
        (forms.JSONField, "{}"),
        (forms.GenericIPAddressField, "127.0.0.1"),
    )
    for kind, value in kinds:
        if isinstance(field, kind):
            return value
    if isinstance(field, forms.CharField):
        text = "sample".ljust(field.min_length or 0, "e")
        return text[: field.max_length] if field.max_length else text
    return None


def choices_of(field):
    """Return the values that a field offers, also those in groups; without the empty one."""
    found = []
    for value, label in field.choices:
        inner = [one for one, _ in label] if isinstance(label, (list, tuple)) else [value]
        found += [one for one in inner if one not in (None, "")]
    return found
