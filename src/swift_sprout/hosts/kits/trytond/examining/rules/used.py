"""What came of trial rows, and of what people and the clock do with a module: forms, buttons, jobs, wizards."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ...asking import last_place, module_of
from ..breaking import in_words, unset_field, what_broke
from .carried import line_in
from .told import carried, of_left_out

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ...reading.code import CodeClass
    from ..examination import Examination

_DOING = {
    "default": "a default of {about}",
    "form": "{name} of {about}",
    "reading": "reading {name} of a row of {about}",
    "offering": "what {name} of {about} offers",
    "setting": "setting a field of {about} through {name}",
    "pressing": "the button {name} of {about}",
    "copying": "copying a row of {about}",
    "job": "the scheduled job {about}|{name}",
    "walking": "the wizard {about}",
}
_CODES = {"job": "installed.job-fails", "walking": "placed.wizard-breaks"}


#  methods that are named by an error of being called with the wrong arguments
_CALLED = re.compile(r"(\w+)\.(\w+)\(\) (?:takes|missing|got)")
_DOING_ROWS = {
    "creating": "creating a row of {model}",
    "reading": "reading {field} of a new row of {model}",
    "changing": "changing a row of {model}",
    "deleting": "deleting a row of {model}",
    "searching by name": "searching {model} by name",
}


def tried(exam: Examination) -> Iterator[Finding]:
    """Models of which a row cannot be made, read, found, changed or deleted, since their code is broken."""
    told: set[tuple[str, int]] = set()
    for failed in carried(exam, "tried"):
        classes = [one for one in exam.module.classes if one.model == failed["model"]]
        broken = what_broke(failed["error"], {name for one in classes for name in one.fields})
        unanswered = not broken and _is_unanswered(failed, failed["field"])
        key = None if broken or unanswered else _key_spelled(exam, failed["error"], classes)
        if not classes or not (broken or unanswered or key):
            continue
        file, line = key or _place_of_row(exam, failed, classes)
        if (file, line) not in told:
            told.add((file, line))
            doing = _DOING_ROWS[failed["doing"]].format(model=failed["model"], field=failed["field"])
            reason = _UNANSWERED if unanswered else in_words(broken or failed["error"]["chain"][-1])
            yield exam.find("installed.row-breaks", file, line, doing=doing, reason=reason)


_UNANSWERED = "its getter returns no value for the row"


def _is_unanswered(failed: Mapping[str, Any], field: str) -> bool:
    """True where what reads a field has no answer for a row, or none for the field."""
    last = failed["error"]["chain"][-1]
    word = str(last["text"]).strip("'")
    return failed["doing"] == "reading" and last["kind"] == "KeyError" and (word.isdigit() or word == field)


def _place_of_row(exam: Examination, failed: Mapping[str, Any], classes: Sequence[CodeClass]) -> tuple[str, int]:
    """Return where the deepest line of the module broke; else the method that was called wrongly, or is searched by."""
    file, line = last_place(exam.view, failed["error"])
    if file:
        return file, line
    called = _CALLED.search(str(failed["error"]["chain"][-1]["text"]))
    name = called[2] if called else "search_rec_name" if failed["doing"] == "searching by name" else failed["field"]
    names = [name, f"get_{name}"]
    found = next((one for one in classes if any(method in one.methods for method in names)), classes[0])
    return exam.view.relative(found.path), line_in(found, names) or found.line


def used(exam: Examination) -> Iterator[Finding]:
    """What fails when it is done once, at the line that broke."""
    told: set[tuple[str, int]] = set()
    for failed in _done_with(exam):
        classes = [one for one in exam.module.classes if one.model == failed["about"]]
        if not classes:
            continue
        known = {name for one in classes for name in one.fields}
        unset = unset_field(failed["error"], known) if failed["doing"] == "form" else ""
        place = _place(exam, failed, classes)
        if place in told:
            continue
        if unset:
            told.add(place)
            yield exam.find(
                "installed.depends-missing", *place, model=failed["about"], method=failed["name"], field=unset
            )
            continue
        broken = what_broke(failed["error"], known)
        key = None if broken else _key_spelled(exam, failed["error"], classes)
        place = key or place
        if (broken or key) and place not in told:
            told.add(place)
            doing = _DOING[failed["doing"]].format(**failed)
            code = _CODES.get(failed["doing"], "installed.use-fails")
            yield exam.find(code, *place, doing=doing, reason=in_words(broken or failed["error"]["chain"][-1]))


def _done_with(exam: Examination) -> Iterator[Mapping[str, Any]]:
    """Yield what failed in the module's code, whichever module it was done for; else what was done for this one."""
    assert exam.live is not None
    deep = exam.live.deep
    for failed in (exam.live.answers.get("carried") or {}).get("used") or () if exam.loaded else ():
        file, _ = last_place(exam.view, failed["error"])
        owner = module_of(exam.view, exam.view.root / file) if file else ""
        part_of = exam.view.module(owner) if owner in deep else None
        mine = part_of is not None and any(one.model == failed["about"] for one in part_of.shared.models)
        teller = owner if mine else failed["module"]
        if teller == exam.module.name and not of_left_out(exam, failed["error"]):
            yield failed


def _place(exam: Examination, failed: Mapping[str, Any], classes: Sequence[CodeClass]) -> tuple[str, int]:
    """Return where the deepest line of the host broke, else the method."""
    file, line = last_place(exam.view, failed["error"])
    if file:
        return file, line
    found = next((one for one in classes if failed["name"] in one.methods), None)
    word = str(failed["error"]["chain"][-1]["text"]).strip("'")
    if found is None:
        return exam.view.relative(classes[0].path), line_in(classes[0], [failed["name"]]) or classes[0].line
    method = found.methods[failed["name"]]
    lines = found.path.read_text("utf-8", "replace").splitlines()
    for number in range(method.lineno, (method.end_lineno or method.lineno) + 1):
        if re.search(rf"['\"]{re.escape(word)}['\"]", lines[number - 1]):
            return exam.view.relative(found.path), number
    return exam.view.relative(found.path), method.lineno


#  what holds keys that somebody else brings: a client, whoever starts the host, or its configuration
_FROM_ELSEWHERE = re.compile(r"context|environ|config|request|session|headers")


def _key_spelled(exam: Examination, error: Mapping[str, Any], classes: Sequence[CodeClass]) -> tuple[str, int] | None:
    """Return where the code spells a key that the host does not know; None for keys that a context may bring."""
    last = error["chain"][-1]
    if last["kind"] != "KeyError":
        return None
    word = re.escape(str(last["text"]).strip("'"))
    spelled = re.compile(rf"['\".]{word}['\".]|\b{word}=")
    frame = last["frames"][-1] if last["frames"] else None
    if frame is not None:
        lines = (exam.view.root / frame["file"]).read_text("utf-8", "replace").splitlines()
        beside = " ".join(lines[frame["line"] - 1 : frame["line"] + 4])
        if spelled.search(beside):
            return None if _FROM_ELSEWHERE.search(beside) else (exam.view.relative(Path(frame["file"])), frame["line"])
        if frame == last["last"]:
            return None  # a key of the module's own
    for found in classes:
        lines = found.path.read_text("utf-8", "replace").splitlines()
        for number in range(found.line, (found.node.end_lineno or found.line) + 1):
            if spelled.search(lines[number - 1]) and not _FROM_ELSEWHERE.search(lines[number - 1]):
                return exam.view.relative(found.path), number
    return None
