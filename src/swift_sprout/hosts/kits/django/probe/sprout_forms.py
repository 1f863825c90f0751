"""The forms of pages, filled in and sent as somebody would who just opened them, in the copies of the databases only.

Their code runs when somebody sends them, which a check that only asks for pages never sees. Nothing of it stays: what
is written to a database is rolled back, files that it keeps are kept elsewhere, forms that must have a file are
not sent, and nobody outside is asked.
"""

import datetime
import re
import threading
import uuid
from contextlib import ExitStack
from urllib.parse import urljoin, urlsplit

from sprout_causes import place_of
from sprout_filling import forms_in
from sprout_inside import at_most, nobody_outside, told
from sprout_rows import files_elsewhere

TOKEN = "csrfmiddlewaretoken"
DRAWN = []  # while forms are sent: those that templates were given since this was emptied
SENDING = threading.local()
MOST_FORMS = 60
LONGEST = 5  # seconds that the code behind a form may take


def note_forms(context):
    """Note the forms that a template is given."""
    from django.forms import BaseForm

    if not getattr(SENDING, "now", False):
        return
    for given in context.dicts:
        DRAWN.extend(held for held in given.values() if isinstance(held, BaseForm))


class Sending:
    """Sends the forms of pages.

    owner_of -- returns the asked module that a dotted name lies in, or None
    harmless -- the modules whose code does nothing that cannot be taken back: only they are sent anything
    scratch  -- a folder for the files that forms would keep
    """

    def __init__(self, root, owner_of, harmless, scratch):
        self.root, self.owner_of, self.harmless, self.scratch = root, owner_of, harmless, scratch
        self.sent = set()

    def all(self, pages):
        """Return what is wrong with the forms of pages, each given by path, host and cookie."""
        from django.db import connections, transaction

        found = []
        SENDING.now = True
        for page in pages:
            with ExitStack() as stack:
                stack.enter_context(nobody_outside())
                stack.enter_context(files_elsewhere(self.scratch))
                for alias in connections:
                    stack.enter_context(transaction.atomic(using=alias))
                try:
                    found += [{"path": page["path"], **one} for one in self.forms_of(page)]
                finally:
                    for alias in connections:
                        transaction.set_rollback(True, using=alias)
        connections.close_all()
        return found

    def forms_of(self, page):
        from django.test import Client

        client = Client(enforce_csrf_checks=True)
        client.cookies.load(page["cookie"])
        host = {"HTTP_HOST": page["host"] or "127.0.0.1"}
        DRAWN.clear()
        try:
            with at_most(LONGEST):
                text = client.get(page["path"], **host).content.decode("utf-8", "replace")
        except Exception:
            return  # told by the page itself
        typed = {}
        for form in DRAWN:
            typed.update(values_of(form))
        yield from self.searches(client, page, text, typed, host)
        names = {name for form in DRAWN for name in form.fields}
        by_script = "csrf" in re.sub(rf"(?i)<input[^>]*{TOKEN}[^>]*>", "", text).lower()
        for form in forms_in(text):
            target = urlsplit(urljoin(f"http://here{page['path']}", form["action"]))
            if target.netloc != "here" or form["script"] or len(self.sent) >= MOST_FORMS:
                continue
            view, slash = view_of(target.path)
            owner = self.owner_of(view)
            if owner is None and page["module"] and target.path == page["path"]:
                owner, view = page["module"], page["view"]  # the host's own view answers, for a page of the module
            told_of = {"target": target.path, "view": view, "module": owner}
            if not view or slash:
                if self.is_absent(client, target.path, host):
                    yield {**told_of, "wrong": "slash" if slash else "absent"}
            elif view not in self.sent and told_of["module"] in self.harmless and not form["files"]:
                self.sent.add(view)
                client.handler.enforce_csrf_checks = not by_script
                data = {name: typed.get(name, values) for name, values in form["data"].items()}
                wrong = self.send(client, target, data, names, host)
                if wrong is not None:
                    yield {**told_of, **wrong}

    def searches(self, client, page, text, typed, host):
        """Yield what breaks when the forms of a page that only ask for another one are filled in."""
        for form in forms_in(text, "get"):
            target = urlsplit(urljoin(f"http://here{page['path']}", form["action"]))
            view, slash = view_of(target.path) if target.netloc == "here" else ("", False)
            if not view or slash or form["script"] or not form["data"] or ("get", view) in self.sent:
                continue
            owner = self.owner_of(view) or (page["module"] if target.path == page["path"] else None)
            if owner not in self.harmless:
                continue
            self.sent.add(("get", view))
            data = {name: typed.get(name, values) for name, values in form["data"].items()}
            try:
                with at_most(LONGEST):
                    client.get(target.path, data, **host)
            except Exception as error:
                told_of = {"target": target.path, "view": view, "module": owner}
                yield {**told_of, "wrong": "error", "error": self.described(error)}

    def described(self, error):
        return {**told(error, self.root), "place": place_of(error, self.root)}

    def is_absent(self, client, path, host):
        """True where nothing answers an address itself: which table it is looked up in may depend on the request."""
        try:
            with at_most(LONGEST):
                return client.get(path, **host).status_code in (301, 302, 404)
        except Exception:
            return False

    def send(self, client, target, data, names, host):
        """Send a form; returns what is wrong with it, or None.

        names -- those of the fields of the forms that were drawn
        """
        address = target.path + (f"?{target.query}" if target.query else "")
        try:
            with at_most(LONGEST):
                status = client.post(address, data, **host).status_code
        except BaseException as error:
            if isinstance(error, KeyboardInterrupt):
                raise
            if isinstance(error, KeyError) and error.args and error.args[0] in names:
                return None  # a field that was refused, for its value is made up
            return {"wrong": "error", "error": self.described(error)}
        if status == 403 and TOKEN not in data and client.handler.enforce_csrf_checks:
            return {"wrong": "token"} if self.takes_without_token(client, address, data, host) else None
        return {"wrong": "refused"} if status == 405 else None

    def takes_without_token(self, client, address, data, host):
        """True where only the lack of the token keeps a form out: it may as well be the view that refuses."""
        client.handler.enforce_csrf_checks = False
        try:
            with at_most(LONGEST):
                return client.post(address, data, **host).status_code != 403
        except Exception:
            return True  # the view was reached, and does something else
        finally:
            client.handler.enforce_csrf_checks = True


def view_of(path):
    """Return the dotted name of the view that answers a path, empty for none, and whether only with a slash behind."""
    from django.conf import settings
    from django.urls import Resolver404, resolve
    from sprout_serving import unwrapped

    for tried in (path, f"{path}/") if settings.APPEND_SLASH else (path,):
        try:
            view = unwrapped(resolve(tried).func)
        except Resolver404:
            continue
        return f"{view.__module__}.{getattr(view, '__qualname__', type(view).__name__)}", tried != path
    return "", False


def values_of(form):
    """Return what somebody could write into the fields of a form, as it is sent: lists of texts by name."""
    from django.forms import FileField, MultiValueField, MultiWidget

    found = {}
    for name, field in form.fields.items():
        key = form.add_prefix(name)
        try:
            if isinstance(field.widget, MultiWidget) and isinstance(field, MultiValueField):
                parts = zip(field.widget.widgets_names, field.fields, strict=False)
                found.update({key + suffix: [value_of(part, None)] for suffix, part in parts})
            elif not isinstance(field, FileField) and not isinstance(field.widget, MultiWidget):
                value = value_of(field, form.get_initial_for_field(field, name))
                found[key] = list(value) if isinstance(value, (list, tuple)) else [value]
        except Exception:
            continue  # nothing is known of a value
    return {name: values for name, values in found.items() if None not in values}


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
