"""A customer's browser inside the shop's process: pages, what they ask for, what somebody types, and what fails."""

import logging
import re
from contextlib import contextmanager
from typing import NamedTuple
from urllib.parse import urljoin, urlsplit

from sprout_causes import described, in_host
from sprout_client import client_for
from sprout_filling import forms_in
from sprout_forms import DRAWN, SENDING, TOKEN, note_forms, value_of, view_of
from sprout_inside import at_most
from sprout_rows import fill

MOST_REDIRECTS = 8
LONGEST = 10  # seconds for one page
PASSWORD = "Brindle-quay-4711"
LINK = re.compile(r"<a\b[^>]*?\bhref\s*=\s*[\"']([^\"'#]+)", re.IGNORECASE)


class Page(NamedTuple):
    """A page that a customer sees; ``name`` is that of its address.

    typed     -- what is typed into its forms, as lists of texts by name
    templates -- the host's own templates that it was drawn with
    """

    path: str
    name: str
    text: str
    typed: dict
    templates: list


class Failed(Exception):
    """A page has failed, which is noted."""


class Browser:
    """Opens pages and sends forms as one person; ``found`` are the failures: each step, its controller, the error."""

    def __init__(self, root, client):
        self.root = root
        self.client = client
        self.host = client.defaults.get("HTTP_HOST", "")
        self.found = []
        self.templates = []

    def open(self, path, step):
        """Return the page that an address leads to; None where it is none that could be gone on from."""
        return self.followed(path, self.asked(path, step, lambda: self.client.get(path)), step)

    def send(self, path, data, step):
        return self.followed(path, self.asked(path, step, lambda: self.client.post(path, data)), step)

    def send_form(self, page, form, step, further=()):
        """Send a form of a page, filled in; ``further`` is typed over what it would be filled in with."""
        target = urljoin(f"http://here{page.path}", form["action"])
        typed = {**page.typed, **dict(further)}
        data = {**form["data"], **{name: values for name, values in typed.items() if name in form["data"]}}
        if TOKEN not in form["data"] and is_guarded(urlsplit(target).path):
            self.note_form(page, step)
        return self.send(urlsplit(target).path, data, step)

    def followed(self, path, response, step):
        for _ in range(MOST_REDIRECTS):
            if response.status_code not in (301, 302, 303):
                break
            target = urlsplit(urljoin(f"http://here{path}", response["Location"]))
            if target.netloc not in ("here", self.host):
                return None  # another site goes on from there
            path = target.path
            response = self.asked(path, step, lambda path=path: self.client.get(path))
        if response.status_code != 200 or "html" not in response.get("Content-Type", ""):
            return None
        text = response.content.decode("utf-8", "replace")
        return Page(path, name_of(path), text, typed_into(), list(dict.fromkeys(self.templates)))

    def asked(self, path, step, ask):
        """Return an answer; raises Failed where there was none, which is noted."""
        DRAWN.clear()
        self.templates.clear()
        try:
            with at_most(LONGEST):
                return ask()
        except Exception as error:
            self.note(error, step, path)
            raise Failed from error

    def note(self, error, step, path=""):
        view, _ = view_of(path) if path else ("", False)
        self.found.append({"step": step, "path": path, "view": view, "error": described(error, self.root)})

    def note_form(self, page, step):
        """Note that the form of a page lacks the token, in the host's own template that shows it."""
        for file in reversed(page.templates):
            with open(file, encoding="utf-8", errors="replace") as handle:
                text = handle.read()
            if re.search(r"<form\b[^>]*post", text, re.IGNORECASE) and "csrf_token" not in text:
                chain = [{"kind": "PermissionDenied", "text": "the form has no CSRF token", "frames": []}]
                error = {"chain": chain, "place": (file, text[: text.lower().index("<form")].count("\n") + 1)}
                self.found.append({"step": step, "path": page.path, "view": "", "error": error, "certain": True})
                return

    # -- what no answer tells ----------------------------------------------------------------------------------------

    @contextmanager
    def noting(self):
        """Note the Django forms and the own templates that pages are drawn with, while the block runs."""
        from django.template.base import Template

        rendered = Template._render

        def render(template, context):
            note_forms(context)
            if in_host(getattr(template.origin, "name", None), self.root):
                self.templates.append(template.origin.name)
            return rendered(template, context)

        before = getattr(SENDING, "now", False)
        Template._render, SENDING.now = render, True
        try:
            yield
        finally:
            Template._render, SENDING.now = rendered, before

    @contextmanager
    def told_by_log(self, names, step, expected):
        """Note the errors that a shop catches, tells its log, and answers with an apology; not the expected ones."""

        class Noting(logging.Handler):
            def emit(handler, record):
                error = record.exc_info[1] if record.exc_info else None
                if error is not None and not isinstance(error, expected):
                    self.note(error, step)

        handler = Noting(logging.ERROR)
        loggers = [logging.getLogger(name) for name in names]
        for logger in loggers:
            logger.addHandler(handler)
        try:
            yield
        finally:
            for logger in loggers:
                logger.removeHandler(handler)


def typed_into():
    """Return what a customer types into the forms of the page just drawn: what must be there, and what is there."""
    typed = {}
    for form in DRAWN:
        for name, field in form.fields.items():
            initial = form.get_initial_for_field(field, name)
            try:
                value = value_of(field, initial) if field.required or initial not in (None, "") else ""
            except Exception:
                continue  # what the page shows there is taken
            if value is not None:
                value = PASSWORD if "password" in name else value
                typed[form.add_prefix(name)] = value if isinstance(value, list) else [value]
    return typed


def name_of(path):
    from django.urls import Resolver404, resolve

    try:
        return resolve(path).view_name
    except Resolver404:
        return ""


def links_of(page):
    """Return the addresses of the site that a page links to."""
    targets = (urlsplit(urljoin(f"http://here{page.path}", one)) for one in LINK.findall(page.text))
    return [target.path for target in targets if target.netloc == "here"]


def forms_of(page):
    """Return the forms of a page that are sent to the site and need no file."""
    targets = [(form, urlsplit(urljoin(f"http://here{page.path}", form["action"]))) for form in forms_in(page.text)]
    return [(form, target.path) for form, target in targets if target.netloc == "here" and not form["files"]]


def is_guarded(path):
    """True for an address whose controller takes no form without a token."""
    from django.conf import settings
    from django.urls import Resolver404, resolve

    try:
        view = resolve(path).func
    except Resolver404:
        return False
    return "django.middleware.csrf.CsrfViewMiddleware" in settings.MIDDLEWARE and not getattr(
        view, "csrf_exempt", False
    )


def a_browser(root, signed_in=True):
    """Return a browser; with somebody signed in who holds no rights, where that is asked for."""
    from django.contrib.auth import get_user_model

    user = None
    if signed_in:
        user = get_user_model()(is_active=True, email="sprout-customer@example.org")
        if user.USERNAME_FIELD != "email":
            setattr(user, user.USERNAME_FIELD, "sprout-customer")
        fill(user)
        user.set_unusable_password()
        user.save()
    return Browser(root, client_for(user))
