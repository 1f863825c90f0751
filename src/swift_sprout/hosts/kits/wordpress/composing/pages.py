"""Pages and endpoints: rewrite rules, who may open what, and where forms lead."""

from __future__ import annotations

import re

from .....core.brief import Brief
from .....core.parts.pages import Page
from .....core.parts.records import Record
from ....shared.rendering import php_text
from .shared import Values, comment_text, needs_of, stem_of

_PATTERNS = {
    "text": "[^/]+",
    "slug": "[a-z0-9-]+",
    "integer": "[0-9]+",
    "uuid": "[0-9a-f-]{36}",
}
_PARAMETER = re.compile(r"\{([a-z][a-z0-9_]*)(?:: ?([a-z]+))?\}")
FRONT = "front_page"


def page_variable(brief: Brief) -> str:
    """Return the query variable that says which page is asked for."""
    return f"{brief.name.snake}_page"


def parameter_variable(brief: Brief, name: str) -> str:
    """Return the query variable of a part of an address that changes."""
    return f"{brief.name.snake}_in_{name}"


def page_values(brief: Brief, records: dict[str, Values]) -> list[Values]:
    """Return the values that templates take of each page."""
    return [_page(brief, page, records) for page in brief.pages]


def _page(brief: Brief, page: Page, records: dict[str, Values]) -> Values:
    stem = stem_of(page.words)
    record = brief.record(page.shows) if page.shows else None
    key = page.parameters[0].name if page.parameters else "number"
    listing = next(
        (one for one in brief.pages if one.shows == page.shows and one.view in ("list and one", "list")), None
    )
    single = record is not None and page.view in ("list and one", "one")
    return {
        "stem": stem,
        "stem_class": stem.replace("_", "-"),
        "path": page.path,
        "heading": page.title,
        "heading_comment": comment_text(page.title),
        "text": page.text,
        "has_text": bool(page.text),
        "key": key,
        "parameters": [{"parameter": one.name} for one in page.parameters],
        "changes": page.view == "form" and bool(page.parameters),
        "is_plain": record is None,
        "has_list": record is not None and page.view in ("list and one", "list"),
        "has_one": single,
        "has_form": record is not None and page.view == "form",
        "one_path": f"{page.path.strip('/')}/".lstrip("/"),
        "form_route": f"{stem}_form",
        "success_path": (listing or page).path.strip("/"),
        **(records[record.name.camel] if record is not None else {}),
    }


def routes_of(brief: Brief) -> tuple[list[Values], list[Values]]:
    """Return the pages by the names under which the host is led to them, and the rules that lead there."""
    routes: list[Values] = []
    rules: list[Values] = []

    def add(name: str, page: Page, paths: list[str], methods: tuple[str, ...], title: str) -> None:
        spelled = php_text([method.upper() for method in methods])
        routes.append(
            {
                "route_name": name,
                "route_needs": needs_of(brief, page.access),
                "route_methods": spelled,
                "route_title": title,
            }
        )
        for path in paths:
            rules.append(_rule(brief, name, path))

    if has_front_page(brief):
        add(FRONT, Page("/", brief.name.title), ["/"], ("get",), brief.name.title)
    for page in brief.pages:
        paths = [page.path, *page.also]
        stem = stem_of(page.words)
        if not page.shows:
            add(stem, page, paths, page.methods, page.title)
            continue
        if page.view in ("list and one", "list"):
            add(f"{stem}_list", page, paths, ("get",), page.title)
        if page.view == "form":
            add(f"{stem}_form", page, paths, ("get", "post"), page.title)
        if page.view in ("list and one", "one"):
            ones = paths if page.parameters else [f"{path.rstrip('/')}/{{number: integer}}" for path in paths]
            add(f"{stem}_one", page, ones, ("get",), page.title)
    # the host takes the first rule that fits: fixed words stand before what changes
    return routes, sorted(rules, key=lambda one: one["changing"])


def _rule(brief: Brief, name: str, path: str) -> Values:
    variables: list[str] = []

    def pattern(found: re.Match[str]) -> str:
        variables.append(found.group(1))
        return f"({_PATTERNS[found.group(2) or 'text']})"

    pieces = [
        _PARAMETER.sub(pattern, one) if "{" in one else re.escape(one).replace("\\-", "-")
        for one in path.strip("/").split("/")
    ]
    below = "/".join(pieces)
    query = f"index.php?{page_variable(brief)}={name}"
    for number, variable in enumerate(variables, 1):
        query += f"&{parameter_variable(brief, variable)}=$matches[{number}]"
    rule = f"^{brief.name.kebab}/{below}/?$" if below else f"^{brief.name.kebab}/?$"
    return {"rule": rule, "rule_query": query, "changing": len(variables)}


def has_front_page(brief: Brief) -> bool:
    """True when the module gets a front page: it has pages, and none at its own root."""
    return bool(brief.pages) and not any("/" in (page.path, *page.also) for page in brief.pages)


def query_names(brief: Brief) -> list[str]:
    """Return the names of the query variables that the rules set."""
    names = {parameter_variable(brief, one.name) for page in brief.pages for one in page.parameters}
    if any(page.shows and page.view in ("list and one", "one") and not page.parameters for page in brief.pages):
        names.add(parameter_variable(brief, "number"))
    return [page_variable(brief), *sorted(names)]


def page_links(brief: Brief) -> list[Values]:
    """Return the links of the front page: to the pages that need no parameter."""
    found = []
    for page in brief.pages:
        if page.parameters or (page.shows and page.view == "one"):
            continue
        needs = needs_of(brief, page.access)
        found.append(
            {
                "link_path": page.path.strip("/"),
                "link_heading": page.title,
                "link_needs": needs,
                "link_guarded": needs != "anyone",
            }
        )
    return found


def endpoint_values(brief: Brief, records: dict[str, Values]) -> list[Values]:
    """Return the values that templates take of the endpoints."""
    found = []
    for endpoint in brief.endpoints:
        record = brief.record(endpoint.shows)
        assert record is not None
        needs = needs_of(brief, endpoint.access)
        path = "/" + endpoint.path.strip("/")
        found.append(
            {
                "endpoint_path": path,
                "endpoint_one_path": f"{path.rstrip('/')}/(?P<id>\\d+)",
                "endpoint_needs": needs,
                "endpoint_word": stem_of(endpoint.words),
                "rest_path": f"/{rest_space(brief)}{path}".rstrip("/"),
                "visitor_status": "200" if needs == "anyone" else "401",
                **{f"answers_{method}": method in endpoint.methods for method in ("get", "post", "put", "delete")},
                "answers_list": bool({"get", "post"} & {*endpoint.methods}),
                "answers_one": bool({"get", "put", "delete"} & {*endpoint.methods}),
                **records[record.name.camel],
            }
        )
    return found


def rest_space(brief: Brief) -> str:
    """Return the space of the module's endpoints: its name and the version of what they promise."""
    return f"{brief.name.kebab}/v1"


def seen_by_everybody(brief: Brief, record: Record) -> bool:
    """True when a page shows a record to anybody."""
    return any(
        page.access == "anyone" and brief.record(page.shows or "") is record for page in brief.pages if page.shows
    )
