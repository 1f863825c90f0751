"""What editors open of the asked modules: lists and forms of records, pages, previews and settings; and the API.

Nobody but an editor sees them, and their code runs in the administration alone. Use it in a transaction that is taken
back.
"""

import sys

from sprout_causes import described
from sprout_client import client_for
from sprout_inside import at_most

LONGEST = 10  # seconds for one of them


class Desks:
    """Opens them as a superuser; ``found`` is what fails: the step, the module, the error.

    owner -- returns which of the asked modules a class belongs to, None for none
    most  -- how many records, settings and types of pages are opened
    """

    def __init__(self, root, owner, user, most):
        self.root, self.owner, self.most = root, owner, most
        self.found = []
        self.of = None  # the class that is worked on
        self.client = client_for(user)

    def all(self, pages):
        self.records()
        self.settings()
        self.pages(pages)
        self.of = None
        self.api()
        return self.found

    def own(self, models):
        """Return those of some models that the asked modules bring, as many as are opened, each with its module."""
        return [(model, owner) for model in models if (owner := self.owner(model)) is not None][: self.most]

    def records(self):
        """Open the list of each record, search it, and open the forms for a new one and for one that is there."""
        from wagtail.snippets.models import get_snippet_models

        for model, owner in self.own(get_snippet_models()):
            viewset, name = model.snippet_viewset, str(model._meta.verbose_name)
            listed = address(viewset.get_url_name("list"))
            self.of = type(viewset)
            self.open(owner, f"listing the records {name}", listed)
            self.open(owner, f"searching the records {name}", f"{listed}?q=a" if listed else None)
            self.open(owner, f"adding a record {name}", address(viewset.get_url_name("add")))
            row = model._default_manager.first()
            if row is not None:
                self.open(owner, f"editing a record {name}", address(viewset.get_url_name("edit"), row.pk))
                self.of = model
                self.preview(owner, f"previewing a record {name}", row)

    def settings(self):
        """Open the form of each setting of the site."""
        from django.apps import apps

        if not apps.is_installed("wagtail.contrib.settings"):
            return
        from wagtail.contrib.settings.registry import registry

        for model, owner in self.own(registry):
            self.of = model
            path = address("wagtailsettings:edit", model._meta.app_label, model._meta.model_name)
            self.open(owner, f"editing the settings {model._meta.verbose_name}", path)

    def pages(self, pages):
        """Open one page of each type for an editor: its parent, form, preview and streams."""
        seen, parents = set(), set()
        for page in pages:
            kind = page.specific_class
            owner = self.owner(kind)
            if owner is None or kind in seen or len(seen) >= self.most:
                continue
            seen.add(kind)
            self.of = kind
            specific, name = page.specific, str(kind._meta.verbose_name)
            parent = page.get_parent().pk
            if parent not in parents:
                parents.add(parent)
                listed = address("wagtailadmin_explore", parent)
                self.open(owner, f"listing the pages beside a page of the type {name}", listed)
            self.open(owner, f"editing a page of the type {name}", address("wagtailadmin_pages:edit", page.pk))
            self.preview(owner, f"previewing a page of the type {name}", specific)
            self.check_streams(owner, name, specific)

    def check_streams(self, owner, name, page):
        """Check the content of a page's streams as its form does when it is saved."""
        from django.core.exceptions import ValidationError
        from wagtail.fields import StreamField

        for field in page._meta.get_fields():
            if isinstance(field, StreamField):
                value = getattr(page, field.name)
                step = f"saving the field {field.name} of a page of the type {name}"
                self.tried(
                    owner, step, lambda field=field, value=value: field.stream_block.clean(value), ValidationError
                )

    def preview(self, owner, step, thing):
        from wagtail.models import PreviewableMixin

        modes = getattr(thing, "preview_modes", ()) if isinstance(thing, PreviewableMixin) else ()
        for mode, _ in list(modes)[:2]:
            self.tried(owner, step, lambda mode=mode: previewed(thing, mode))

    def api(self):
        """Ask for the list of each endpoint of the pages' API for which the modules, or the site, have a class."""
        for router, name, kind in endpoints():
            path = address(f"{router.url_namespace}:{name}:listing")
            if kind.__module__.startswith("wagtail."):
                self.of_types(name, path)
                continue
            self.open(self.owner(kind) or "", f"asking the API for {name}", path)

    def of_types(self, name, path):
        """Ask an endpoint of the host's own for the fields of each of the modules' types of pages."""
        from wagtail.models import get_page_models

        if name != "pages" or path is None:
            return
        for kind, owner in self.own(one for one in get_page_models() if getattr(one, "api_fields", ())):
            self.of = kind
            all_fields = f"{path}?type={kind._meta.label}&fields=*&limit=1"
            self.open(owner, f"asking the API for {kind.__name__}", all_fields)

    # -- asking ----------------------------------------------------------------------------------------------------

    def open(self, owner, step, path):
        """Return the answer for an address; None where there is none, or where it fails, which is noted."""
        return None if path is None else self.tried(owner, step, lambda: self.client.get(path, follow=True))

    def tried(self, owner, step, work, well=()):
        """Return what something returns; None where it fails, which is noted unless it is well so."""
        try:
            with at_most(LONGEST):
                return work()
        except well:
            return None
        except Exception as error:
            self.found.append({"step": step, "module": owner, "error": described(error, self.root, self.of)})
            return None


def previewed(thing, mode):
    """Draw the preview of a page or a record; an error that the host turns into an answer is raised all the same."""
    from django.core.signals import got_request_exception

    met = []

    def noted(**_):
        met.append(sys.exc_info()[1])

    got_request_exception.connect(noted)
    try:
        response = thing.make_preview_request(preview_mode=mode)
        if hasattr(response, "render") and not response.is_rendered:
            response.render()
    finally:
        got_request_exception.disconnect(noted)
    if met:
        raise met[0]


def address(name, *arguments):
    """Return the address of a name; None where it has none, as for screens that a view set leaves out."""
    from django.urls import NoReverseMatch, reverse

    try:
        return reverse(name, args=arguments)
    except NoReverseMatch:
        return None


def endpoints():
    """Yield the routers of the pages' API with their endpoints, each with its name and class."""
    kind = getattr(sys.modules.get("wagtail.api.v2.router"), "WagtailAPIRouter", None)
    held = (one for module in list(sys.modules.values()) for one in list(getattr(module, "__dict__", {}).values()))
    routers = {id(one): one for one in held if kind is not None and isinstance(one, kind)}
    for router in routers.values():
        for name, endpoint in router._endpoints.items():
            yield router, name, endpoint
