"""Asks a running Wagtail host what the Django probe asks, and for its tree of pages.

Pages of the asked modules' types are called like any other address: their route is the page's own, and what drew them
is the page's type, which the host's hook before serving tells.
"""

import ask
from sprout_apart import databases_apart
from sprout_desks import Desks
from sprout_inside import nobody_outside, told
from sprout_rows import files_elsewhere

#  how many records, settings and types of pages are opened for editors, and how many of them in a check of many modules
MOST_DESKS, FEW_DESKS = 8, 2


class AskTree(ask.Ask):
    AT_ONCE = (*ask.Ask.AT_ONCE, "tree", "editors")
    ASIDE = (*ask.Ask.ASIDE, "administration", "desks")
    BESIDE = ("wagtailadmin.access_admin",)  # without it nobody sees a page below the administration

    def routes(self):
        from django.conf import settings
        from wagtail.models import Site

        settings.ALLOWED_HOSTS = [*settings.ALLOWED_HOSTS, *Site.objects.values_list("hostname", flat=True)]
        found = super().routes()
        self.tell_types()
        for page in self.live_pages():
            cls = page.specific_class
            owner = self.owner(cls)
            if owner is None:
                continue
            site, path = self.place_of(page)
            name = f"{cls.__module__}.{cls.__qualname__}"
            found.append(
                {
                    "module": owner,
                    "view": name,
                    "name": "",
                    "route": path or page.url_path,
                    "file": ask.file_of(cls.__module__),
                    "line": ask.line_of(cls),
                    "methods": [],
                    "path": path,
                    "host": "" if site is None or site.is_default_site else site.hostname,
                    "needs": "" if path else "the page stands below no site",
                    "answers": name if self.resolved(path or "/") == "wagtail.views.serve" else self.resolved(path),
                    "page": page.title,
                }
            )
            if path:
                found += [{**found[-1], **below, "path": path + below["path"]} for below in self.below(page)]
        return [*found, *self.screens_for_editors()]

    def below(self, page):
        """Tell the addresses that a page answers below its own, where its type has such."""
        specific = page.specific
        found = []
        for pattern in getattr(specific, "get_subpage_urls", list)():
            samples = ask.Samples(False)
            try:
                path, _ = samples.path((pattern.pattern,), pattern, pattern.callback)
            except Exception:
                continue  # no value is known that its address takes
            if path and path != "/":
                route = f"{page.url_path}{pattern.pattern}"
                found.append({"route": route, "path": path.lstrip("/"), "guessed": samples.guessed})
        return found

    def screens_for_editors(self):
        """Tell the list of each record that editors work on: its address is the host's, its rights the module's."""
        from django.urls import reverse
        from wagtail.snippets.models import get_snippet_models

        found = []
        plain = plain_addresses()
        for model in get_snippet_models():
            owner = self.owner(model)
            if owner is None:
                continue
            named = model.snippet_viewset.get_url_name("list")
            path = plain.get(named) or reverse(named)
            view = ask.unwrapped(model.snippet_viewset.index_view)
            name = f"{view.__module__}.{view.__qualname__}"
            found.append(
                {
                    "module": owner,
                    "view": name,
                    "name": "",
                    "route": path,
                    "file": ask.file_of(model.__module__),
                    "line": ask.line_of(model),
                    "methods": [],
                    "path": path,
                    "needs": "",
                    "answers": name,
                    "people": ["visitor"],  # the others are asked for by what the screens themselves say of rights
                }
            )
        return found

    def owner(self, cls):
        """Return which of the asked modules a page type belongs to."""
        module = getattr(cls, "__module__", "") or ""
        return next((one for one in self.question["modules"] if module == one or module.startswith(one + ".")), None)

    def live_pages(self):
        from wagtail.models import Page

        return [page for page in Page.objects.live().order_by("path") if page.specific_class is not None]

    def place_of(self, page):
        """Return the site that a page stands on, the default one first, and its path there; None where on none."""
        from wagtail.models import Site

        for site in sorted(Site.objects.select_related("root_page"), key=lambda one: not one.is_default_site):
            if page.path.startswith(site.root_page.path):
                return site, page.url_path[len(site.root_page.url_path) - 1 :]
        return None, None

    def tell_types(self):
        """Have answers that the tree of pages gives tell the type of the page that they show."""
        from wagtail import hooks

        @hooks.register("before_serve_page")
        def told(page, request, *_):
            cls = type(page.specific)
            request.sprout_view = f"{cls.__module__}.{cls.__qualname__}"

    def administration(self):
        """Draw the administration's menu and front page as a superuser would see them."""
        return self.rolled_back(self.drawn)

    def desks(self):
        """Open what editors open, in copies of the databases only; returns what fails."""
        if not self.all_is_harmless():
            return {"failed": []}
        with nobody_outside(), files_elsewhere(self.scratch), databases_apart(self.question["scratch"]):
            return self.rolled_back(lambda: {"failed": self.opened()})

    def opened(self):
        user = self.somebody("desk", is_staff=True, is_superuser=True)
        most = FEW_DESKS if len(self.question["modules"]) > ask.MANY_PAGES else MOST_DESKS
        return Desks(self.root, self.owner, user, most).all(self.live_pages())

    def editors(self):
        """Tell whom the screens of each record let in."""
        return self.rolled_back(lambda: {"screens": self.let_in()})

    def rolled_back(self, work):
        """Do something for which people are made in the database, and take that back; tell an error in its place."""
        from django.db import connection, transaction

        with transaction.atomic():
            try:
                found = work()
            except Exception as error:
                found = {"error": told(error, self.root)}
            transaction.set_rollback(True)
        connection.close()
        return found

    def drawn(self):
        from django.test import RequestFactory
        from wagtail import hooks
        from wagtail.admin.menu import admin_menu

        request = RequestFactory().get("/")
        request.user = self.somebody("editor", is_staff=True, is_superuser=True)
        items = [str(item.label) for item in admin_menu.menu_items_for_request(request)]
        panels = []
        for hook in hooks.get_hooks("construct_homepage_panels"):
            hook(request, panels)
        for panel in panels:
            panel.render_html({"request": request})
        return {"menu": items, "panels": [f"{type(one).__module__}.{type(one).__qualname__}" for one in panels]}

    def let_in(self):
        """Return for each record which people its screens let in: without rights, with just the record's, with all.

        Where the host's own policy judges by the record's rights alone, one person holds those of all such records.
        """
        from django.contrib.auth.models import AnonymousUser, Permission
        from wagtail.snippets.models import get_snippet_models

        superuser = self.somebody("editor", is_staff=True, is_superuser=True)
        people = {"visitor": AnonymousUser(), "signed in": self.somebody("reader"), "superuser": superuser}
        rights = {}
        for one in Permission.objects.filter(codename__startswith="view_").select_related("content_type"):
            rights[f"{one.content_type.app_label}.{one.codename}"] = one
        asked = [(model, f"{model._meta.app_label}.view_{model._meta.model_name}") for model in get_snippet_models()]
        asked = [(model, right) for model, right in asked if self.owner(model) is not None]
        plain = {model for model, _ in asked if judged_plainly(model)}
        holder = self.somebody(
            "holder", [rights[right] for model, right in asked if model in plain and right in rights]
        )
        found = []
        for number, (model, right) in enumerate(asked):
            policy = model.snippet_viewset.permission_policy
            told = {who: self.may(policy, one) for who, one in people.items()}
            own = [rights[right]] if right in rights else []
            told["holder"] = self.may(policy, holder if model in plain else self.somebody(f"holder-{number}", own))
            found.append({"module": self.owner(model), "record": model.__name__, "right": right, "people": told})
        return found

    def somebody(self, name, rights=(), **flags):
        """Make somebody who holds some rights, as the database tells of them then."""
        from django.contrib.auth import get_user_model

        model = get_user_model()
        made = model(is_active=True, **flags)
        setattr(made, made.USERNAME_FIELD, f"sprout-{name}")
        ask.fill(made)
        made.set_unusable_password()
        made.save()
        if rights:  # the rows that give them, written as they are: there may be very many records
            given = made.user_permissions.through
            whose = made._meta.get_field("user_permissions").m2m_column_name()
            given._base_manager.bulk_create([given(**{whose: made.pk, "permission": right}) for right in rights])
        return model._base_manager.get(pk=made.pk)

    @staticmethod
    def may(policy, user):
        return bool(policy.user_has_any_permission(user, {"add", "change", "delete", "view"}))

    def tree(self):
        """Tell the pages of the asked modules' types, live or not, and those whose type is not there any more."""
        from django.db import connection
        from wagtail.models import Page, Site, get_page_models

        pages, gone = [], []
        for page in Page.objects.exclude(depth=1).order_by("path").select_related("content_type"):
            cls = page.specific_class
            if cls is None:
                kind = page.content_type
                gone.append({"label": kind.app_label, "model": kind.model, "title": page.title, "path": page.url_path})
                continue
            owner = self.owner(cls)
            if owner is None:
                continue
            parent = page.get_parent()
            above = parent.specific_class
            drafts = [one.title for one in page.get_ancestors().exclude(depth=1) if not one.live]
            pages.append(
                {
                    "module": owner,
                    "type": cls.__name__,
                    "view": f"{cls.__module__}.{cls.__qualname__}",
                    "title": page.title,
                    "live": page.live,
                    "path": self.place_of(page)[1],
                    "parent": parent.title,
                    "parent_type": above.__name__ if above else "",
                    "allowed": above is not None and cls in above.allowed_subpage_models(),
                    "drafts_above": drafts,
                }
            )
        sites = [{"host": one.hostname, "default": one.is_default_site} for one in Site.objects.all()]
        connection.close()
        types = [[model._meta.app_label, model._meta.model_name] for model in get_page_models()]
        return {"pages": pages, "gone": gone, "sites": sites, "types": types}


def judged_plainly(model):
    """True when the host's own policy says who may work on a record, by the rights on that record and nothing else."""
    from wagtail.permission_policies import ModelPermissionPolicy

    policy = model.snippet_viewset.permission_policy
    return type(policy) is ModelPermissionPolicy and policy.auth_model is model


def plain_addresses():
    """Return the addresses without parameters by their names: in one walk, which asking for each is not."""
    from django.urls import get_resolver
    from django.urls.resolvers import RegexPattern

    found = {}
    for route, pattern, namespaces in ask.leaves(get_resolver(), (), ()):
        parts = [part for part in route if getattr(part, "converters", None) or isinstance(part, RegexPattern)]
        if pattern.name and not parts:
            found.setdefault(":".join([*namespaces, pattern.name]), "/" + "".join(str(part) for part in route))
    return found


def main():
    ask.main(AskTree)
