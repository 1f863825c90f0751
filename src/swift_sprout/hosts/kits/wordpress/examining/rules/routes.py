"""Whether the module's addresses lead to it: rewrite rules, their variables, and the routes of the REST interface."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from typing import TYPE_CHECKING, Any

from ......core.nearest import near_text
from ...facts import wordpress
from ...reading.routes import PageRule, pages_of, rest_routes_of

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination

_EARLY = ("init", "plugins_loaded", "after_setup_theme", "setup_theme", "widgets_init", "wp_loaded", "")


def hooked_on(exam: Examination, owner: str, name: str) -> set[str]:
    """Return the hooks on which a function or method of the module hangs, as far as the files say it."""
    found = set()
    for file, call in exam.calls("add_action", "add_filter"):
        if len(call.nodes) > 1 and call.values and isinstance(call.values[0], str):
            target = file.target(call.nodes[1], call.inside[0])
            short = target.name.rpartition("\\")[2].lower()
            if short == name.lower() and target.owner.lower() == owner.lower():
                found.add(call.values[0])
    return found


def rules(exam: Examination) -> Iterator[Finding]:
    """Rules that are spelled wrong, that no variable stands behind, or that the host hears of too late."""
    known = _declared(exam)
    host_variables = wordpress(exam.view.data).host_variables
    seen: dict[str, int] = {}
    texts = _texts(exam)
    named = {variable for page in pages_of(exam.module) for variable, value in _names(page.query) if texts.get(value)}
    for page in pages_of(exam.module):
        path = page.file.path
        if page.rule in seen:
            yield exam.find("routed.rule-twice", path, page.line, rule=page.rule, first=seen[page.rule])
        seen.setdefault(page.rule, page.line)
        if page.rule.startswith(("/", "^/")):
            yield exam.find("routed.rule-slash", path, page.line, rule=page.rule)
        if page.query and not page.query.startswith("index.php"):
            yield exam.find("routed.rule-elsewhere", path, page.line, query=page.query)
            continue
        for variable in page.variables:
            if known is not None and variable not in known and variable not in host_variables:
                near = near_text(variable, known)
                yield exam.find(
                    "routed.variable-unknown",
                    path,
                    page.line,
                    variable=variable,
                    near=near,
                )
        for variable, value in _names(page.query):
            if variable in named and not texts.get(value):
                yield exam.find("routed.page-unknown", path, page.line, variable=variable, value=value)
        owner, method = page.inside
        if method and method != "{closure}":
            hooks = hooked_on(exam, owner, method)
            if hooks and not hooks & set(_EARLY):
                yield exam.find("routed.rule-late", path, page.line, hook=", ".join(sorted(hooks)))


def _names(query: str) -> list[tuple[str, str]]:
    """Return the query variables that a rule sets to a fixed name, with that name."""
    return re.findall(r"[?&]([a-z_]+)=([A-Za-z_][\w-]*)(?=&|$)", query)


def _declared(exam: Examination) -> set[str] | None:
    """Return the query variables that a module makes known; None when its files do not say them."""
    known: set[str] = set()
    hooked = list(exam.calls("add_filter"))
    filters = [(file, call) for file, call in hooked if call.values[:1] == ["query_vars"]]
    if not filters and any(b"query_vars" in content for content in exam.module.contents.values()):
        return None  # a class of the module's own hangs it there
    for _, call in exam.calls("add_rewrite_tag"):
        if call.values and isinstance(call.values[0], str):
            known.add(call.values[0].strip("%"))
    for file, call in filters:
        node = call.nodes[1] if len(call.nodes) > 1 else None
        target = file.target(node, call.inside[0]) if node is not None else None
        body = b""
        if node is not None and node.type in (
            "anonymous_function",
            "arrow_function",
            "anonymous_function_creation_expression",
        ):
            body = node.text or b""
        elif target is not None and target.name:
            body = body_of(exam, target.owner, target.name)
        if not body:
            return None
        known |= {text.decode() for text in re.findall(rb"['\"]([A-Za-z_][\w-]*)['\"]", body)}
    return known if known or not filters else None


def body_of(exam: Examination, owner: str, name: str) -> bytes:
    """Return the source of a function or method of the module; empty when it is not there."""
    if owner:
        held = exam.module.classes.get(owner.lower())
        method = held[0].methods.get(name.lower()) if held is not None else None
        if held is None or method is None:
            return b""
        lines, line = held[1].content.split(b"\n"), method.line
    else:
        found = exam.module.functions.get(name.lower())
        if found is None:
            return b""
        line, file = found
        lines = file.content.split(b"\n")
    body: list[bytes] = []
    depth = 0
    for text in lines[line - 1 :]:
        body.append(text)
        depth += text.count(b"{") - text.count(b"}")
        if depth <= 0 and b"}" in text:
            break
    return b"\n".join(body)


def _texts(exam: Examination) -> dict[str, int]:
    """Return how often each plain word stands in quotes in the module's code."""
    found: dict[str, int] = {}
    for file in exam.module.loaded_files:
        for text in re.findall(rb"['\"]([A-Za-z_][\w-]*)['\"]", file.content):
            found[text.decode()] = found.get(text.decode(), 0) + 1
    return found


def endpoints(exam: Examination) -> Iterator[Finding]:
    """Routes of the REST interface that the host refuses, or hears of too early."""
    seen: dict[tuple[str, str], int] = {}
    for route in rest_routes_of(exam.module):
        path = route.file.path
        if route.space.startswith("/") or (route.space and route.space.endswith("/")):
            yield exam.find("routed.space-slash", path, route.line, space=route.space)
        if (route.space, route.path) in seen and route.path:
            yield exam.find(
                "routed.endpoint-twice",
                path,
                route.line,
                path=f"{route.space}{route.path}",
                first=seen[route.space, route.path],
            )
        seen.setdefault((route.space, route.path), route.line)
        if route.path.count("(") != route.path.count(")") or ("(?P<" not in route.path and "(<" in route.path):
            yield exam.find("routed.endpoint-broken", path, route.line, path=route.path)
        owner, method = route.inside
        hooks = hooked_on(exam, owner, method) if method and method != "{closure}" else set()
        if hooks and "rest_api_init" not in hooks and not any(hook.startswith("rest_") for hook in hooks):
            yield exam.find("routed.endpoint-early", path, route.line, hook=", ".join(sorted(hooks)))


def stale_pages(exam: Examination) -> list[PageRule]:
    """Return the pages of the module whose rules the host would make now and has not saved."""
    told = exam.answers.get("rules") or {}
    now, kept = told.get("now") or {}, told.get("saved") or {}
    pages = pages_of(exam.module) if kept else []
    return [page for page in pages if page.rule in now and kept.get(page.rule) != now[page.rule]]


def saved(exam: Examination) -> Iterator[Finding]:
    """Rules that the host would make now and has not saved, that others stand before, or that do not match at all."""
    if not exam.loaded or not {"rules", "host"} <= exam.answers.keys():
        return
    told = exam.answers["rules"]
    host = exam.answers.get("host") or {}
    pages = pages_of(exam.module)
    if not pages:
        return
    first = pages[0]
    if not host.get("permalinks"):
        yield exam.find("routed.no-permalinks", first.file.path, first.line)
        return
    now = told.get("now") or {}
    kept = told.get("saved") or {}
    stale = stale_pages(exam)
    broken = [page for page in pages if page.rule in (told.get("broken") or [])]
    for page in broken:
        yield exam.find("routed.rule-broken", page.file.path, page.line, rule=page.rule)
    absent = [page for page in pages if page.rule not in now and page.inside[1] != "{closure}"]
    if absent and len(absent) == len(pages):
        yield exam.find("routed.rules-never-added", first.file.path, first.line, count=len(pages))
        return
    if stale:
        yield exam.find("routed.rules-stale", stale[0].file.path, stale[0].line, count=len(stale), rule=stale[0].rule)
        return
    for page in pages:
        meets = first_met(kept, page.path)
        if page.path and meets and meets[0] and meets[1] != page.query and page not in broken:
            yield exam.find(
                "routed.rule-behind", page.file.path, page.line, path=page.path, rule=meets[0], query=meets[1]
            )
    names = set(told.get("names") or [])
    for page in pages:
        for variable in page.variables:
            if names and variable not in names and _declared(exam) is None:
                yield exam.find("routed.variable-unknown", page.file.path, page.line, variable=variable, near="")


def first_met(rules: dict[str, str], path: str) -> tuple[str, str] | None:
    """Return the first of the saved rules that an address meets, and where it leads: as the host goes through them."""
    wanted = path.strip("/")
    for rule, query in rules.items():
        try:
            if re.match(rule if rule.startswith("^") else f"^(?:{rule})", wanted):
                return rule, query
        except re.error:
            continue  # spelled in a way that only the host's own language reads
    return None


def flushed(exam: Examination) -> Iterator[Finding]:
    """Rules that the module saves anew at each request: dear, and what other modules add after it is lost."""
    for file, call in exam.calls("flush_rewrite_rules"):
        owner, method = call.inside
        if not method or method == "{closure}" or call.maybe:
            continue
        hooks = hooked_on(exam, owner, method) & {"init", "wp_loaded", "plugins_loaded", "wp", "template_redirect"}
        if hooks:
            yield exam.find("routed.flushed-always", file.path, call.line, hook=", ".join(sorted(hooks)))


def _broken(exam: Examination, known: Sequence[Mapping[str, Any]]) -> Iterator[Finding]:
    """Endpoints whose address is put together, and is no regular expression in the end."""
    for told in known:
        if told["broken"] and exam.holds(told["answers"]["file"]):
            place = exam.line_saying(str(told["route"]).rpartition("/")[2])
            seen = [route.path for route in rest_routes_of(exam.module) if route.path]
            if place is not None and not any(path in told["route"] for path in seen):
                yield exam.find("routed.endpoint-broken", *place, path=told["route"])


def known_endpoints(exam: Examination) -> Iterator[Finding]:
    """Routes of the REST interface that the running host does not know, or cannot call."""
    if not exam.loaded:
        return
    known = exam.answers.get("rest")
    if known is None:
        return
    names = {route["route"] for route in known}
    yield from _broken(exam, known)
    for route in rest_routes_of(exam.module):
        whole = route.address
        if route.space and route.path and whole not in names:
            yield exam.find("routed.endpoint-absent", route.file.path, route.line, path=whole)
            continue
        for told in known:
            if told["route"] == whole and not told["answers"]["callable"]:
                yield exam.find(
                    "routed.endpoint-uncallable",
                    route.file.path,
                    route.line,
                    path=whole,
                    what=told["answers"]["name"] or "nothing",
                )
                break
