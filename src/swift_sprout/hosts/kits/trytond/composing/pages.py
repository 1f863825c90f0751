"""Pages and endpoints: routes of the module's router, and who may call them."""

from __future__ import annotations

import re

from .....core.brief import Brief
from .....core.parts.pages import Page, needed_right
from .....core.parts.rights import same_name
from ....shared.rendering import python_text
from .shared import MODES, Values, model_name

_CONVERTERS = {"text": "", "slug": "", "integer": "int:", "uuid": "uuid:"}


def rule_of(path: str) -> str:
    """Return an address as the host's router spells it, below the router's own."""
    return re.sub(r"\{([a-z][a-z0-9_]*)(?:: ?([a-z]+))?\}", _parameter, path.strip("/"))


def _parameter(found: re.Match[str]) -> str:
    return f"<{_CONVERTERS[found.group(2) or 'text']}{found.group(1)}>"


def guards_of(brief: Brief, access: str, more: str = "in_language") -> str:
    """Spell the decorators that let only those in whom an access names; ``more`` stands behind them."""
    if access == "anyone":
        return f"[*ANYONE, {more}]"
    if access == "signed in":
        return f"[*SIGNED_IN, {more}]"
    if access == "staff":
        return f"[*SIGNED_IN, staff_only, {more}]"
    right = needed_right(brief, access)
    assert right is not None
    verb, name = right
    record = brief.record(name) if name else None
    if record is not None:
        return f"[*SIGNED_IN, needs({python_text(model_name(brief, record))}, {python_text(MODES[verb])}), {more}]"
    permission = next(one for one in brief.permissions if same_name(one.name.title, verb))
    owner = brief.record(permission.on or brief.records[0].name.title)
    assert owner is not None
    button = f"needs_right({python_text(model_name(brief, owner))}, {python_text(permission.key)})"
    return f"[*SIGNED_IN, {button}, {more}]"


def page_values(brief: Brief, records: dict[str, Values]) -> list[Values]:
    """Return the values that templates take of the pages."""
    return [_page(brief, page, records) for page in brief.pages]


def _page(brief: Brief, page: Page, records: dict[str, Values]) -> Values:
    stem = "_".join(page.words)
    record = brief.record(page.shows) if page.shows else None
    key = page.parameters[0].name if page.parameters else "number"
    changes = page.view == "form" and bool(page.parameters)
    listing = next(
        (one for one in brief.pages if one.shows == page.shows and one.view in ("list and one", "list")), None
    )
    success = f"cls.url_for({python_text(listing_route(listing))})" if listing is not None else "request.path"
    values: Values = {
        "stem": stem,
        "path": page.path,
        "heading": page.title,
        "heading_message": f"page_{stem}",
        "text_message": f"text_{stem}",
        "has_text": bool(page.text),
        "access": page.access,
        "key": key,
        "changes": changes,
        "success": success,
        "is_plain": record is None,
        "has_list": record is not None and page.view in ("list and one", "list"),
        "has_one": record is not None and page.view in ("list and one", "one"),
        "has_form": record is not None and page.view == "form",
        "plain_route": stem,
        "list_route": f"{stem}_list",
        "one_route": f"{stem}_one",
        "form_route": f"{stem}_form",
        "plain_template": f"{stem}.html",
        "list_template": f"{stem}_list.html",
        "one_template": f"{stem}_one.html",
        "form_template": f"{stem}_form.html",
        "plain_arguments": "".join(f", {one.name}" for one in page.parameters),
    }
    if record is not None:
        values |= records[record.name.camel]
        if page.view == "list":
            values["columns"] = [{**column, "leads": False} for column in values["columns"]]
    return values


def listing_route(page: Page) -> str:
    """Return the name of the route that answers at a page's own address."""
    stem = "_".join(page.words)
    if not page.shows:
        return stem
    return f"{stem}_{ {'list and one': 'list', 'list': 'list', 'one': 'one', 'form': 'form'}[page.view] }"


def page_routes(brief: Brief) -> list[Values]:
    """Return the routes of the pages as the router's file spells them."""
    found = []
    for page in brief.pages:
        paths = [page.path, *page.also]
        guards = guards_of(brief, page.access)
        stem = "_".join(page.words)
        key = page.parameters[0].name if page.parameters else "number"
        if not page.shows:
            found.append(_route(stem, [rule_of(path) for path in paths], page.methods, guards))
            continue
        if page.view in ("list and one", "list"):
            found.append(_route(f"{stem}_list", [rule_of(path) for path in paths], ("get",), guards))
        if page.view == "form":
            found.append(_route(f"{stem}_form", [rule_of(path) for path in paths], ("get", "post"), guards))
        if page.view in ("list and one", "one"):
            rules = [rule_of(path) for path in paths]
            if not page.parameters:
                rules = [f"{rule}/<int:{key}>".lstrip("/") for rule in rules]
            found.append(_route(f"{stem}_one", rules, ("get",), guards))
    return found


def _route(name: str, rules: list[str], methods: tuple[str, ...], guards: str) -> Values:
    spelled = python_text({method.upper() for method in methods})
    return {
        "route_name": name,
        "rules": [{"rule": rule, "rule_methods": spelled} for rule in rules],
        "guards": guards,
    }


def endpoint_values(brief: Brief, records: dict[str, Values]) -> tuple[list[Values], list[Values]]:
    """Return the values of the endpoints, and their routes."""
    found, routes = [], []
    for endpoint in brief.endpoints:
        record = brief.record(endpoint.shows)
        assert record is not None
        name = "_".join(endpoint.words)
        rule = rule_of(endpoint.path)
        writes = [method for method in endpoint.methods if method != "get"]
        rules = [rule, f"{rule}/<int:number>".lstrip("/")]
        if "get" in endpoint.methods:
            routes.append(_route(name, rules, ("get",), guards_of(brief, endpoint.access)))
        if writes:
            access = "signed in" if endpoint.access == "anyone" else endpoint.access
            routes.append(_route(f"{name}_write", rules, tuple(writes), guards_of(brief, access)))
        found.append(
            {
                "endpoint_route": name,
                "answers_get": "get" in endpoint.methods,
                "writes": bool(writes),
                **records[record.name.camel],
            }
        )
    return found, routes


def route_imports(brief: Brief, routes: list[Values]) -> list[str]:
    """Return the first lines of the router's file."""
    spelled = " ".join(route["guards"] for route in routes)
    forms = any(page.view == "form" and page.shows for page in brief.pages)
    writes = any(method != "get" for one in brief.endpoints for method in one.methods)
    found = ["import json"] if brief.endpoints else []
    found += ["from pathlib import Path"] if brief.assets else []
    found += [""] if found else []
    found += ["from trytond.exceptions import UserError"] if forms or writes else []
    wrappers = [] if not _aborts(brief) else ["abort"]
    wrappers = (["Response"] if brief.endpoints or brief.assets else []) + wrappers + (["redirect"] if forms else [])
    found += [f"from trytond.protocols.wrappers import {', '.join(wrappers)}"] if wrappers else []
    found += ["from trytond.routing import Route, Router, Rule"]
    found += ["from trytond.transaction import Transaction"] if forms or writes else []
    needs_forms = (["inputs"] if forms else []) + (["read_form"] if forms or writes else [])
    guards = ("ANYONE", "SIGNED_IN", "in_language", "needs", "needs_right", "staff_only")
    serving = [name for name in guards if re.search(rf"\b{name}\b", spelled)]
    own = [f"from .serving import {', '.join(serving)}"]
    own = [f"from .forms import {', '.join(needs_forms)}", *own] if needs_forms else own
    return [*found, "", "from . import serving", *own]


def _aborts(brief: Brief) -> bool:
    return bool(brief.assets) or any(
        page.shows and (page.view in ("list and one", "one") or (page.view == "form" and page.parameters))
        for page in brief.pages
    )
