"""Per rung what was seen: state and one line of evidence. Failures come from the rules, not from here."""

from __future__ import annotations

from .....core.ladder import Rung, State
from .....core.plurals import number_of
from .examination import Examination

Evidence = dict[Rung, tuple[State, str]]


def evidence(exam: Examination) -> Evidence:
    """Return what speaks for each rung; rungs that only a running host can answer are left out when none was asked."""
    seen: Evidence = {}
    module, view = exam.module, exam.view
    seen[Rung.FOUND] = State.PASS, f"package {module.name} in {view.relative(module.place)}/"
    seen[Rung.DESCRIBED] = State.PASS, _described(exam)
    entry = view.entry_of(module)
    if entry is not None:
        seen[Rung.REGISTERED] = State.PASS, f"listed at {view.relative(entry.file)}:{entry.line}"
    elif exam.registered_as is not None:
        seen[Rung.REGISTERED] = State.PASS, "the running host has it in its list"
    seen[Rung.COMPATIBLE] = State.PASS, _compatible(exam)
    if exam.live is None:
        _static_routes(exam, seen)
    elif module.name in exam.live.stopped:
        for rung in (Rung.ENABLED, Rung.INSTALLED):
            seen[rung] = State.BLOCKED, "it stops the host before that can be asked"
    elif not exam.live.failure:
        _live(exam, seen)
    if exam.live is None or not exam.live.failure:
        seen[Rung.PLACED] = _placed(exam)
    return seen


def _described(exam: Examination) -> str:
    module = exam.module
    if module.config is None:
        return "no apps.py; the host makes a plain description"
    place = f"{exam.view.relative(f'{module.place}/apps.py')}:{module.config.line}"
    title = f', "{module.title}"' if module.title else ""
    version = f" {module.version}" if module.version else ""
    return f"{place} {module.config.name}{title}{version}"


def _compatible(exam: Examination) -> str:
    needs = exam.module.brief.get("module", {}).get("needs") or []
    asked = exam.live is not None and exam.view.data.base is None  # the answer is the version of the kit at the bottom
    version = exam.live.answers.get("entry", {}).get("version") if asked and exam.live else exam.view.version
    host = f"{exam.view.data.title} {version}" if version else f"label {exam.module.label} is its own"
    return f"{host}; needs {', '.join(needs)}" if needs else f"{host}; needs no other module"


def _static_routes(exam: Examination, seen: Evidence) -> None:
    if not exam.module.urls:
        seen[Rung.ROUTED] = State.NOT_APPLICABLE, "it has no addresses"
    elif exam.addresses:
        seen[Rung.ROUTED] = State.PASS, _shortened([address.path for address in exam.addresses])


def _live(exam: Examination, seen: Evidence) -> None:
    assert exam.live is not None
    if exam.registered_as is not None:
        seen[Rung.ENABLED] = State.PASS, f"in the running host's registry as {exam.registered_as['label']}"
        seen[Rung.INSTALLED] = _installed(exam)
    if not exam.module.urls and not exam.routes:
        for rung in (Rung.ROUTED, Rung.PERMITTED, Rung.SERVED):
            seen[rung] = State.NOT_APPLICABLE, "it has no addresses"
    elif exam.routes:
        answered = [route for route in exam.routes if route.get("answers") == route["view"]]
        text = _shortened(
            [f"{route['path']} → {route['view'].removeprefix(exam.module.name + '.')}" for route in answered]
        )
        seen[Rung.ROUTED] = State.PASS, text or "its addresses stand in the table; none could be called"
        good = [ask for ask in exam.asked if 200 <= ask.answer.status < 300]
        if good:
            who = sorted({ask.who for ask in good})
            seen[Rung.PERMITTED] = State.PASS, "open to " + ", ".join(_PEOPLE.get(one_who, one_who) for one_who in who)
            best = good[0]
            mark = mark_in(best.log, best.answer.body, exam)
            shown = f', with "{mark[:40]}"' if mark else ""
            seen[Rung.SERVED] = (
                State.PASS,
                f"GET {best.path} answered {best.answer.status}, {len(best.answer.body)} B{shown}",
            )
        elif any(ask.answer.status != 405 for ask in exam.asked):
            statuses = ", ".join(dict.fromkeys(str(ask.answer.status) for ask in exam.asked))
            #  what is wrong with that, if anything is, rules say; a page may refuse or send on for its own reasons
            seen[Rung.PERMITTED] = State.NOT_ASKED, "not sure: no page could be seen by anybody"
            seen[Rung.SERVED] = State.NOT_ASKED, f"not sure: its pages answer {statuses} to whoever was asked for"
        else:
            seen[Rung.PERMITTED] = State.NOT_APPLICABLE, "no page of it can be called without knowing more"
            seen[Rung.SERVED] = State.NOT_APPLICABLE, "no page of it can be called without knowing more"
    elif exam.included:
        seen[Rung.ROUTED] = State.PASS, "its addresses are included; they lead to controllers of other packages"
        for rung in (Rung.PERMITTED, Rung.SERVED):
            seen[rung] = State.NOT_APPLICABLE, "no page is made by its own controllers"


def _placed(exam: Examination) -> tuple[State, str]:
    """Tell where the module's blocks and menu stand, as the host's templates show it, and what else the host holds."""
    view = exam.view
    own = {tag for library in exam.module.libraries for tag in library.blocks}
    drawn = _drawn(exam)
    stands = [
        f"{tag} in {template.name}{drawn.get((tag, str(template.path)), '')}"
        for tag in sorted(own)
        for template in view.templates.using(tag)
    ]
    stands.sort(key=lambda text: _DRAWN not in text)
    if exam.live is not None and not exam.live.failure:
        stands += [text for standing in view.further.standing for text in standing(exam)]
    if stands:
        return State.PASS, _shortened(list(dict.fromkeys(stands)))
    return State.NOT_APPLICABLE, "it carries nothing that is placed"


_DRAWN = " (drawn on "


def _drawn(exam: Examination) -> dict[tuple[str, str], str]:
    """Return on which page each tag of the module was drawn first, by the tag and the template that it stands in."""
    found: dict[tuple[str, str], str] = {}
    for (library, tag, template), asked in exam.live.tags_drawn.items() if exam.live is not None else ():
        if library.startswith(f"{exam.module.name}."):
            who = "" if asked.who == "visitor" else f" for {_PEOPLE.get(asked.who, asked.who)}"
            found[tag, template] = f"{_DRAWN}{asked.path}{who})"
    return found


_PEOPLE = {
    "visitor": "visitors",
    "signed in": "people signed in",
    "holder": "who holds its permission",
    "staff": "staff",
    "superuser": "superusers",
}


def _installed(exam: Examination) -> tuple[State, str]:
    assert exam.live is not None
    registered = exam.registered_as or {}
    if not registered.get("models"):
        return State.NOT_APPLICABLE, "it keeps no records"
    mine = exam.live.migrations("applied", registered["label"])
    tables = ", ".join(model["table"] for model in registered["models"])
    count = f"{number_of(len(mine), 'migration')} applied"
    return State.PASS, f"{count}; tables {tables}"


def mark_in(log: dict[str, object], body: bytes, exam: Examination) -> str:
    """Return a literal text of one of the module's own templates that the answer holds; empty when there is none."""
    text = body.decode("utf-8", "replace")
    folder = str(exam.module.folder.resolve()) + "/"
    templates = log.get("templates") or []
    assert isinstance(templates, list)
    marks = [
        str(mark)
        for template in templates
        if str(template["file"]).startswith(folder)
        for mark in template["marks"]
        if mark in text
    ]
    return max(marks, key=lambda mark: (exam.module.label in mark, len(mark)), default="")


def _shortened(items: list[str], most: int = 3) -> str:
    rest = len(items) - most
    return ", ".join(items[:most]) + (f" and {rest} more" if rest > 0 else "")
