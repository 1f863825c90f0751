"""Why a window, wizard or report of a trytond module is offered to somebody, or is not."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ....core.conditions import Answer, Condition, judged
from ....core.ladder import State
from ...shared.explaining import answered
from .asking import said

if TYPE_CHECKING:
    from .examining.examination import Examination
    from .reading.datafile import DataRecord
    from .why import Asker

#  the sorts of actions, as people call them
ACTIONS = {"ir.action.act_window": "window", "ir.action.wizard": "wizard", "ir.action.report": "report"}
_OPENS = {"ir.action.act_window": "res_model", "ir.action.wizard": "wiz_name", "ir.action.report": "report_name"}


def opened_by(record: DataRecord) -> str:
    """Return the name of the model, wizard or report that an action opens."""
    return record.text(_OPENS[record.model])


def action_seen(
    exam: Examination, record: DataRecord, sort: str, asker: Asker, ground: tuple[Condition, ...]
) -> Answer:
    """Return whether somebody is offered an action and may use it, with each condition."""
    module, place = exam.module.name, f"{exam.view.relative(record.path)}:{record.line}"
    found = next((one for one in exam.answers("actions") if one["id"] == record.id), None)
    title = record.text("name")
    conditions = [
        *ground,
        judged(f"the database has the {sort}", found is not None, place, f"swift-sprout settle {module}"),
        judged("somebody is signed in", asker.signed_in, asker.person, "sign in, in the client"),
    ]
    if found is not None:
        conditions += [
            judged(f"the class of the {sort} is registered", found["there"], found["opens"], f"fix {place}"),
            judged("it is active", found["active"], "active" if found["active"] else "archived", "switch it on again"),
            _offered(found),
            _for_groups(found, asker),
            *_read(exam, found, asker),
            *_drawn(exam, record),
        ]
    failed = any(condition.state is State.FAIL for condition in conditions)
    where = ", ".join([*found["menu"], *(f"on {model}" for model in found["offered"])]) if found else ""
    now = f"not offered to {asker.person}" if failed else f"offered: {where}"
    return answered(module, f"{sort} {title}", asker.person, now, tuple(conditions))


def _offered(found: dict[str, Any]) -> Condition:
    where = [*found["menu"], *(f"on {model}" for model in found["offered"])]
    mend = "give it a menu entry, or a record of ir.action.keyword that puts it on a model"
    return judged("a menu entry or a model offers it", bool(where), ", ".join(where) or "neither", mend)


def _for_groups(found: dict[str, Any], asker: Asker) -> Condition:
    groups = set(found["groups"])
    may = not groups or asker.administrator or bool(groups & asker.groups)
    text = f"it is for {', '.join(sorted(groups))}" if groups else "it is for everybody"
    mend = f"put {asker.somebody} into the group {' or '.join(sorted(groups))}"
    return judged(text, may, ", ".join(sorted(asker.groups)) or "no group", mend)


def _read(exam: Examination, found: dict[str, Any], asker: Asker) -> list[Condition]:
    """Return whether the person may read the model behind it, where the module brings that."""
    rights = [one for one in exam.answers("rights") if one["model"] == found["model"]]
    if not rights:
        return []
    mine = [one for one in rights if one["group"] in asker.groups or (not one["group"] and asker.signed_in)]
    may = asker.administrator or any("read" in one["modes"] for one in mine)
    holders = sorted(one["group"] for one in rights if one["group"] and "read" in one["modes"])
    mend = f"put {asker.somebody} into the group {' or '.join(holders)}" if holders else "give a group that right"
    model = found["model"]
    return [judged(f"{asker.person} may read {model}", may, ", ".join(holders) or "no group may", mend)]


def _drawn(exam: Examination, record: DataRecord) -> list[Condition]:
    """Return whether a report could be drawn on a copy of the database."""
    told = (exam.live.answers.get("carried") or {}).get("reports") or [] if exam.live is not None else []
    for one in told:
        if one["id"] == record.id and one["known"]:
            rows = f"for {one.get('rows', 0)} records"
            evidence = said(one["error"]) if one["error"] else rows
            return [judged("it can be drawn", not one["error"], evidence, f"swift-sprout check {exam.module.name}")]
    return []
