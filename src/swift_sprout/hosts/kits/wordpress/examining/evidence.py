"""What was seen of each rung, in one line, apart from any finding."""

from __future__ import annotations

from typing import TYPE_CHECKING

from .....core.ladder import Rung, State
from .....core.plurals import number_of
from ..reading.kept import roles_of
from ..reading.routes import pages_of, rest_routes_of

if TYPE_CHECKING:
    from .examination import Examination

Seen = dict[Rung, tuple[State, str]]


def evidence(exam: Examination) -> Seen:
    """Return what was seen of a module, rung by rung; rungs that only the running host can tell are left out."""
    module, view = exam.module, exam.view
    seen: Seen = {}
    if module.main is not None:
        header = module.header
        seen[Rung.FOUND] = State.PASS, view.relative(module.main)
        seen[Rung.DESCRIBED] = State.PASS, f"{module.title}, version {module.version or 'none'}"
        needs = [f"WordPress {header.get('Requires at least')}"] if header.get("Requires at least") else []
        needs += [f"PHP {header.get('Requires PHP')}"] if header.get("Requires PHP") else []
        seen[Rung.COMPATIBLE] = (
            State.PASS,
            f"needs {', '.join([*needs, *module.needs]) or 'nothing'}; this is {view.version}",
        )
    seen[Rung.REGISTERED] = State.PASS, _registered(exam)
    if exam.asked is not None and exam.view.state is None:
        seen[Rung.ENABLED] = State.NOT_ASKED, "the database does not answer"
    elif exam.asked is not None and module.sort == "theme":
        on = "it draws the site" if exam.on else "another theme draws the site"
        seen[Rung.ENABLED] = State.PASS if exam.on else State.NOT_APPLICABLE, on
    elif exam.loaded:
        seen[Rung.ENABLED] = State.PASS, f"on in the database as {module.key}, loaded by the running host"
    rules, routes = pages_of(module), rest_routes_of(module)
    if not rules and not routes:
        seen[Rung.ROUTED] = State.NOT_APPLICABLE, "no rewrite rule and no endpoint"
    if exam.loaded:
        _live(exam, seen, len(rules), len(routes))
    return seen


def _registered(exam: Examination) -> str:
    """Tell what the compiler took, or, where it was not asked, what reading found."""
    if exam.compiled is not None:
        return f"{number_of(len(exam.module.paths), 'file')} compiled"
    return f"{number_of(len(exam.module.classes), 'class')} and {number_of(len(exam.module.functions), 'function')}"


def _live(exam: Examination, seen: Seen, rules: int, routes: int) -> None:
    shape = (exam.answers.get("shapes") or {}).get(exam.module.name)
    roles = [key for key in roles_of(exam.module) if key in (exam.answers.get("roles") or {})]
    if shape or roles:
        tables = number_of(len(shape["tables"]) if shape else 0, "table")
        seen[Rung.INSTALLED] = State.PASS, f"{tables} as the files say, {number_of(len(roles), 'role')}"
    else:
        seen[Rung.INSTALLED] = State.NOT_APPLICABLE, "it says no tables and no roles"
    if rules or routes:
        saved, called = number_of(rules, "saved rule"), number_of(routes, "endpoint")
        seen[Rung.ROUTED] = State.PASS, f"reached by {saved} and {called}"
    away = {
        request.path
        for request in exam.requests
        if request.who == "visitor" and request.answer.status in (301, 302, 401, 403)
    }
    if exam.requests:
        seen[Rung.PERMITTED] = (
            State.PASS,
            f"{len(away)} of {number_of(len({each.path for each in exam.requests}), 'address')} turn visitors away",
        )
    else:
        seen[Rung.PERMITTED] = State.NOT_APPLICABLE, "no page, screen or endpoint"
    places = exam.answers.get("places") or {}
    screens = {entry["slug"] for entry in exam.answers.get("menu") or [] if exam.holds(entry["file"])}
    blocks = [name for name, held in (places.get("blocks") or {}).items() if exam.holds(held["draws"]["file"])]
    widgets = [name for name, held in (places.get("widgets") or {}).items() if exam.holds(held["file"])]
    codes = [name for name, held in (places.get("shortcodes") or {}).items() if exam.holds(held["file"])]
    counts = [(len(screens), "screen"), (len(blocks), "block"), (len(widgets), "widget"), (len(codes), "shortcode")]
    told = ", ".join(number_of(count, word) for count, word in counts if count)
    if told:
        seen[Rung.PLACED] = State.PASS, told
    else:
        seen[Rung.PLACED] = State.NOT_APPLICABLE, "no screen, block, widget or shortcode"
    good = [request.path for request in exam.requests if request.answer.status == 200]
    if good:
        paths = list(dict.fromkeys(good))
        seen[Rung.SERVED] = State.PASS, f"{number_of(len(paths), 'address')} answered whole, e.g. {paths[0]}"
    elif not exam.requests:
        seen[Rung.SERVED] = State.NOT_APPLICABLE, "no address that could be asked for"
