"""Pages: their controllers, templates and addresses."""

from __future__ import annotations

import re

from .....core.brief import Brief
from .....core.errors import WrongUse
from .....core.parts.pages import Page, parameters_of
from .....core.parts.records import Record
from ....shared.rendering import python_text
from .shared import Site, Values, lines, permission_of

_GUARDS: dict[str, tuple[str, str, list[str]]] = {
    "anyone": ("", "", []),
    "signed in": ("LoginRequiredMixin, ", "LoginRequiredMixin", []),
    "staff": (
        "UserPassesTestMixin, ",
        "UserPassesTestMixin",
        ["", "    def test_func(self):", "        return self.request.user.is_staff"],
    ),
}
_CONVERTERS = {"text": "str", "integer": "int", "slug": "slug", "uuid": "uuid"}
_EXAMPLES = {"text": '"sample"', "integer": "1", "slug": '"sample"', "uuid": '"00000000-0000-0000-0000-000000000001"'}


def page_values(brief: Brief, records: dict[str, Values], site: Site) -> list[Values]:
    """Return the values that templates take of the pages."""
    named = named_pages(brief.pages)
    lists: dict[str, str] = {}  # the stem of the first list of each record
    for page, stem in named:
        if page.shows and page.view in ("list", "list and one") and (record := brief.record(page.shows)) is not None:
            lists.setdefault(record.name.snake, stem)
    return [_page(brief, page, stem, records, site, lists) for page, stem in named]


def named_pages(pages: tuple[Page, ...]) -> list[tuple[Page, str]]:
    """Give every page a stem of its own, from which its controller, template and address take their names."""
    taken: set[str] = set()
    numbers: dict[str, int] = {}
    result = []
    for page in pages:
        plain = "_".join(page.words)
        stem = plain
        while stem in taken:
            numbers[plain] = numbers.get(plain, 1) + 1
            stem = f"{plain}_{numbers[plain]}"
        taken.add(stem)
        result.append((page, stem))
    return result


def class_stem(stem: str) -> str:
    """Return the stem as the beginning of a class name."""
    joined = "".join(part.capitalize() for part in stem.split("_"))
    return f"Page{joined}" if joined[0].isdigit() else joined


def route_of(path: str) -> str:
    """Spell a path as the host's route, without the first slash and with the last."""
    route = re.sub(
        r"\{([a-z][a-z0-9_]*)(?:: ?([a-z]+))?\}",
        lambda found: f"<{_CONVERTERS[found.group(2) or 'text']}:{found.group(1)}>",
        path.strip("/"),
    )
    return f"{route}/" if route else ""


def _page(brief: Brief, page: Page, stem: str, records: dict[str, Values], site: Site, lists: dict[str, str]) -> Values:
    label = brief.name.snake
    space = site.space(label)
    view = class_stem(stem)
    shown = brief.record(page.shows) if page.shows else None
    permission = permission_of(brief, page.access)
    if permission:
        guard, mixin = "PermissionRequiredMixin, ", "PermissionRequiredMixin"
        guard_lines = [f"    permission_required = {python_text(f'{label}.{permission}')}"]
    else:
        guard, mixin, guard_lines = _GUARDS[page.access]
    name = stem.replace("_", "-")
    has_list = bool(shown) and page.view in ("list", "list and one")
    has_one = bool(shown) and page.view in ("one", "list and one")
    has_form = bool(shown) and page.view == "form"
    list_name = name
    one_name = f"{name}-detail" if has_list else name
    here = page.parameters
    key = here[0].name if here and shown else "pk"
    template = f"{stem}_list.html" if has_list else f"{stem}_form.html" if has_form else f"{stem}.html"
    classes = {"list": f"{view}List", "one": f"{view}Detail", "form": f"{view}Form", "plain": f"{view}Page"}
    values = records[shown.name.camel] if shown else {}
    if shown and has_form and nameless_owner(page, shown):  # code by hand may be so: it stays as it is
        values = {**values, "offered_fields": values["form_fields"]}
    return {
        "stem": stem,
        "heading": page.title,
        "text": f"_({python_text(page.text)})" if page.text else '""',
        "view": view,
        "page_name": name,
        "list_name": list_name,
        "one_name": one_name,
        "reverse": f"{space}{name}",
        "one_reverse": f"{space}{one_name}",
        "template": template,
        "detail_template": f"{stem}_detail.html",
        "template_name": f"{label}/{template}",
        "detail_template_name": f"{label}/{stem}_detail.html",
        "shows": bool(shown),
        "has_list": has_list,
        "links_one": has_one and has_list,
        "has_one": has_one,
        "has_form": has_form,
        "is_plain": not shown,
        **values,
        "form_parent": "UpdateView" if here else "CreateView",
        "changes": bool(here) and has_form,
        "owner": values["owner"] if shown and not here and page.access != "anyone" else "",
        "key": key,
        "key_is_not_pk": key != "pk",
        "success": _success(brief, page, space, lists),
        "methods": _methods(page),
        "answers_post": "post" in page.methods,
        "parameters": [{"parameter": one.name} for one in here] if not shown else [],
        "example_arguments": ", args=[" + ", ".join(_EXAMPLES[one.type] for one in here) + "]" if here else "",
        "routes": _routes(site, page, name, one_name, classes, has_list, has_one, has_form),
        "guard": guard,
        "mixin": mixin,
        "guard_lines": lines(guard_lines),
        "permission": permission,
        "needs_user": page.access != "anyone",
        "user_flags": ', "is_staff": True' if page.access == "staff" else "",
    }


def nameless_owner(page: Page, record: Record) -> str:
    """Return the field of a record that must name a person, where nobody signs in for the form; empty for none."""
    needed = (one.name for one in record.fields if one.target == "user" and not one.optional)
    return next(needed, "") if page.access == "anyone" else ""


def refuse_without_owner(brief: Brief) -> None:
    """Raise WrongUse for a form that nobody signs in for, of a record that must name a person."""
    for page in brief.pages:
        record = brief.record(page.shows) if page.view == "form" and page.shows else None
        field = nameless_owner(page, record) if record is not None else ""
        if record is not None and field:
            raise WrongUse(
                "owner-unknown",
                f"The form {page.path} is for anyone, but {record.name.title}.{field} must name whoever is signed in.",
                'Say access = "signed in", or make the field optional.',
            )


def _methods(page: Page) -> str:
    if page.shows or page.methods == ("get",):
        return ""
    return python_text([*page.methods, *(["head"] if "get" in page.methods else []), "options"])


def _success(brief: Brief, page: Page, space: str, lists: dict[str, str]) -> str:
    """Return the address to which a saved form leads: the list of its record where there is one, else itself."""
    record = brief.record(page.shows) if page.shows else None
    stem = lists.get(record.name.snake, "") if record is not None else ""
    return f"{space}{stem.replace('_', '-')}" if stem else ""


def _routes(
    site: Site,
    page: Page,
    name: str,
    one_name: str,
    classes: dict[str, str],
    has_list: bool,
    has_one: bool,
    has_form: bool,
) -> list[Values]:
    main = classes["list" if has_list else "one" if has_one else "form" if has_form else "plain"]
    found: list[Values] = []
    for number, path in enumerate((page.path, *page.also), 1):
        more = f"-{number}" if number > 1 else ""
        route = route_of(site.own(path))
        needs_key = (has_one and not has_list) and not parameters_of(path)
        found.append(
            {"route": f"{route}<int:pk>/" if needs_key else route, "route_view": main, "route_name": f"{name}{more}"}
        )
        if has_list and has_one:
            found.append(
                {"route": f"{route}<int:pk>/", "route_view": classes["one"], "route_name": f"{one_name}{more}"}
            )
    return found


def ordered_routes(pages: list[Values]) -> list[Values]:
    """Return the routes of all pages; those that take any text stand last, so that they hide no other."""
    found = [route for page in pages for route in page["routes"]]
    return sorted(found, key=lambda route: "<str:" in route["route"] or "<slug:" in route["route"])


def view_imports(pages: list[Values]) -> list[str]:
    """Return the first lines of ``views.py``."""
    mixins = sorted({page["mixin"] for page in pages} - {""})
    generic: set[str] = set()
    for page in pages:
        generic |= {"ListView"} if page["has_list"] else set()
        generic |= {"DetailView"} if page["has_one"] else set()
        generic |= {page["form_parent"]} if page["has_form"] else set()
        generic |= {"TemplateView"} if page["is_plain"] else set()
    found = [f"from django.contrib.auth.mixins import {', '.join(mixins)}"] if mixins else []
    if any(page["has_form"] and page["success"] for page in pages):
        found.append("from django.urls import reverse_lazy")
    found.append("from django.utils.translation import gettext_lazy as _")
    found.append(f"from django.views.generic import {', '.join(sorted(generic))}")
    return [*found, "", "from . import models"] if any(page["shows"] for page in pages) else found
