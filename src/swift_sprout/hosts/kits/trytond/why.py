"""Why a page, record, job, menu entry, window, wizard or report of a trytond module is seen by somebody, or is not."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING, Any

from ....core.conditions import Answer, Condition, judged
from ....core.errors import HostFailed
from ....core.ladder import RUNGS, Rung, State
from ...shared.explaining import (
    PERSONS,
    answered,
    ground_of,
    not_running,
    person_named,
    unknown_person,
    unknown_thing,
    whole_module,
)
from .action_seen import ACTIONS, action_seen, opened_by
from .asking import ask, said
from .examining.examination import Examination
from .examining.examine import examine_one
from .reading.rights import access_of
from .reading.routes import Route, routes_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from .asking import Live
    from .reading.datafile import DataRecord
    from .reading.modules import ModuleFiles
    from .view import HostView

STEPS = ("tables", "data", "views", "menus", "rights", "people", "pages", "actions", "carried")
ADMINISTRATORS = ("staff", "administrator")  # every user enters the administration
GROUND = RUNGS[: RUNGS.index(Rung.ROUTED)]


class Things:
    """What a module carries that can be asked about, by the name that people say."""

    def __init__(self, view: HostView, module: ModuleFiles) -> None:
        base = view.database_name or "DATABASE"
        self.pages: dict[str, Route] = {
            route.path(base): route for route in routes_of(module) if "GET" in route.methods
        }
        self.records = _short_names([*access_of(module).models, *_stored(module)])
        self.jobs = {
            record.text("method").partition("|")[2]: record
            for record in module.records
            if record.model == "ir.cron" and record.text("method")
        }
        self.menu: dict[str, DataRecord] = {}
        self.actions = {record.text("name"): record for record in module.records if record.model in ACTIONS}
        for record in module.records:
            if record.model == "ir.ui.menu":
                action = module.ids.get(record.ref("action"))
                name = record.text("name") or (action.text("name") if action is not None else "")
                if name:
                    self.menu.setdefault(name, record)

    def names(self) -> list[str]:
        """Return every name that can be asked about."""
        return [*self.pages, *self.records, *self.jobs, *dict.fromkeys([*self.menu, *self.actions])]


def _stored(module: ModuleFiles) -> list[str]:
    """Return the models that a module brings and that are more than what a dialog asks for."""
    brought = [one for one in module.classes if one.sort == "model" and one.model and not one.extends]
    return [one.model for one in brought if [base.rpartition(".")[2] for base in one.bases] != ["ModelView"]]


def _short_names(models: Sequence[str]) -> dict[str, str]:
    """Return models by what follows the dot of their name, and by the whole name where several have that."""
    short = Counter(model.partition(".")[2] for model in dict.fromkeys(models))
    return {model.partition(".")[2] if short[model.partition(".")[2]] == 1 else model: model for model in models}


class Asker:
    """Who asks: the groups that count, whether an administrator, and how the host's answers name that person."""

    def __init__(self, live: Live, person: str) -> None:
        people = {one["login"]: one for one in live.answers.get("people") or ()}
        self.person = person
        self.known = person in PERSONS or person in people
        self.people = list(people)
        found = people.get(person, {})
        self.groups: set[str] = set(found.get("groups", ()))
        self.administrator = person in ADMINISTRATORS or bool(found.get("administrator"))
        self.signed_in = person != "visitor"
        self.somebody = "the user" if person in PERSONS else person


def why(view: HostView, module: ModuleFiles, what: str | None, person: str, limit_seconds: float) -> Answer:
    """Return the answer; the host is started once.

    what   -- an address, a record, a job, a menu entry or an action; None for the module's first page, or else itself
    person -- one of PERSONS, or the login of a user of the host
    """
    person = person_named(person)
    things = Things(view, module)
    sort, name = _sort_of(module, things, what)
    if view.interpreter is None:
        raise HostFailed("no-interpreter", "Why needs the running host.", "Name an interpreter with --runtime PATH.")
    asked_as = None if person == "visitor" else person
    more: dict[str, Any] = {"person": asked_as} if person not in PERSONS else {}
    live = ask(view, [module], limit_seconds, STEPS, {**more, "deep": [module.name]})
    check = examine_one(Examination(view, module, live), live.failure)
    thing = f"{sort} {name}".strip() or "the module"
    if live.failure:
        return not_running(module.name, thing, person, live.failure)
    asker = Asker(live, person)
    if not asker.known and "people" in live.answers:
        raise unknown_person(person, asker.people)
    ground = ground_of(check, GROUND)
    one = Examination(view, module, live)
    if sort == "page":
        return _page(one, things.pages[name], name, asker, ground)
    if sort == "record":
        return _record(one, things.records[name], name, asker, ground)
    if sort == "scheduled job":
        return _job(one, things.jobs[name], name, asker, ground)
    if sort == "menu entry":
        return _menu_entry(one, things.menu[name], name, asker, ground)
    if sort in ACTIONS.values():
        return action_seen(one, things.actions[name], sort, asker, ground)
    return whole_module(check, person, ground)


def _sort_of(module: ModuleFiles, things: Things, what: str | None) -> tuple[str, str]:
    if what is None:
        plain = [path for path in things.pages if "<" not in path]
        return ("page", plain[0]) if plain else ("", "")
    if what.startswith("/"):
        wanted = what.rstrip("/")
        for path in things.pages:
            if path.rstrip("/") == wanted or path.endswith(f"/{module.name}{wanted}"):
                return "page", path
    plain_word = what.strip().lower().replace(" ", "_")
    for name, model in things.records.items():
        if plain_word in (name, model):
            return "record", name
    if plain_word in things.jobs:
        return "scheduled job", plain_word
    for name in things.menu:
        if name.lower() == what.strip().lower():
            return "menu entry", name
    for name, record in things.actions.items():
        if what.strip().lower() in (name.lower(), record.id, opened_by(record)):
            return ACTIONS[record.model], name
    raise unknown_thing(module.name, what, things.names())


def _page(exam: Examination, route: Route, path: str, asker: Asker, ground: tuple[Condition, ...]) -> Answer:
    place = f"{exam.view.relative(route.owner.path)}:{route.line}"
    conditions = [*ground]
    live = any(answer["route"] == route.method for answer in exam.answers("routes"))
    conditions.append(judged("the running host leads the address to the module", live, place))
    answers = [answer for answer in exam.answers("pages") if answer["route"] == route.method]
    conditions.append(_may_open(route, asker, place))
    mine = _answer_for(answers, asker)
    if mine is not None and mine["status"] is not None:
        good = 200 <= mine["status"] < 300
        text = mine["start"].strip().splitlines()[0][:80] if mine["start"].strip() else ""
        now = f"status {mine['status']}" + (f", beginning with {text!r}" if text else "")
        if not good and mine["status"] >= 500:
            logged = next((entry["error"] for entry in mine["log"] if "error" in entry), None)
            evidence = said(logged) if logged else f"status {mine['status']}"
            conditions.append(judged("the page can be made", False, evidence, f"swift-sprout check {exam.module.name}"))
    else:
        now = "nothing was asked: no record stands for its parameters" if answers else "the address is not there"
    return answered(exam.module.name, f"page {path}", asker.person, now, tuple(conditions))


def _answer_for(answers: list[dict[str, Any]], asker: Asker) -> dict[str, Any] | None:
    wanted = {"visitor": "visitor", "signed in": "signed in"}.get(asker.person, "")
    if asker.person in ADMINISTRATORS:
        wanted = "administrator"
    found = next((answer for answer in answers if answer["who"] == (wanted or "person")), None)
    return (
        found
        or next((answer for answer in answers if answer["who"] == "visitor" and answer["status"] == 200), None)
        or (answers[0] if answers and not wanted else None)
    )


def _may_open(route: Route, asker: Asker, place: str) -> Condition:
    who = route.open_to
    if who == "anyone":
        return judged("anybody may open it", True, place)
    if who == "people signed in":
        return judged("it is for people who are signed in", asker.signed_in, asker.person, "sign in, in the client")
    if asker.administrator:
        return judged(f"it is for {who}", True, "administrators may do everything")
    if who == "administrators":
        mend = f"make {asker.somebody} an administrator" if asker.signed_in else "sign in as an administrator"
        return judged("it is for administrators", False, asker.person, mend)
    return Condition(f"it is for {who}", State.PASS if asker.groups else State.FAIL, *_by_group(route, asker))


def _by_group(route: Route, asker: Asker) -> tuple[str, str]:
    if not asker.signed_in:
        return "a visitor is in no group", "sign in, in the client"
    if not asker.groups:
        return (
            f"{asker.person} is in no group",
            f"give {asker.somebody} a group with that right, under Administration, Users",
        )
    return f"groups: {', '.join(sorted(asker.groups))}", ""


def _record(exam: Examination, model: str, name: str, asker: Asker, ground: tuple[Condition, ...]) -> Answer:
    modes: set[str] = set()
    holders = []
    for right in exam.answers("rights"):
        if right["model"] == model:
            if right["group"] in asker.groups or (right["group"] == "" and asker.signed_in):
                modes |= set(right["modes"])
            if right["group"] and "read" in right["modes"]:
                holders.append(right["group"])
    signed = judged("the client asks who it is", asker.signed_in, asker.person, "sign in, in the client")
    may = asker.administrator or "read" in modes
    mend = (
        f"put {asker.somebody} into the group {' or '.join(holders)}"
        if holders
        else f"give a group the right to read {model}"
    )
    allowed = judged(f"{asker.person} may read {model}", may, ", ".join(sorted(modes)) or "no right", mend)
    menu = next((entry["title"] for entry in exam.answers("menus") if entry["model"] == model), "")
    inside = next(
        (f"{one.model}.{field.name}" for one in exam.module.classes for field in one.fields.values()
         if field.target == model and one.model != model), ""
    )  # fmt: skip
    text = "a menu entry opens it, or another record leads to it"
    shown = judged(text, bool(menu or inside), menu or inside or "neither", "add a menu entry")
    now = f"may {', '.join(sorted(modes))}" if modes else "everything" if asker.administrator else "nothing of it"
    return answered(exam.module.name, f"record {name}", asker.person, now, (*ground, signed, allowed, shown))


def _job(exam: Examination, record: DataRecord, name: str, asker: Asker, ground: tuple[Condition, ...]) -> Answer:
    active = record.field("active")
    on = active is None or active.eval.strip() == "True"
    conditions = (
        *ground,
        judged("the scheduler knows it", True, record.text("method")),
        judged(
            "it runs by itself", on, "active" if on else "switched off", "switch it on under Administration, Scheduler"
        ),
    )
    now = "it runs by itself" if on else "it runs when it is asked to"
    return answered(exam.module.name, f"scheduled job {name}", asker.person, now, conditions)


def _menu_entry(
    exam: Examination, record: DataRecord, name: str, asker: Asker, ground: tuple[Condition, ...]
) -> Answer:
    entry = next((found for found in exam.answers("menus") if found["id"] == record.id), None)
    there = judged(
        "the entry is in the menu",
        entry is not None,
        entry["title"] if entry else "not loaded",
        f"swift-sprout settle {exam.module.name}",
    )
    conditions = [
        *ground,
        there,
        judged("somebody is signed in", asker.signed_in, asker.person, "sign in, in the client"),
    ]
    if entry is not None:
        conditions.append(
            judged("it is switched on", not entry["hidden"], entry["hidden"], f"switch {entry['hidden']} on")
        )
        groups = set(entry["groups"])
        may = not groups or asker.administrator or bool(groups & asker.groups)
        text = f"it is shown to {', '.join(sorted(groups))}" if groups else "it is shown to everybody"
        mend = f"put {asker.somebody} into the group {' or '.join(sorted(groups))}"
        conditions.append(judged(text, may, ", ".join(sorted(asker.groups)) or "no group", mend))
        opens = judged("what it opens is there", entry["problem"] is None, entry["model"] or "the entries below it")
        conditions.append(opens)
    return answered(
        exam.module.name, f"menu entry {name}", asker.person, entry["title"] if entry else "nothing", tuple(conditions)
    )
