"""Compatible: what the modules of a host need of each other, and in which order they are listed."""

from __future__ import annotations

from collections.abc import Iterator

from ......core.brief import BRIEF_FILE
from ......core.findings import Finding
from ......core.tomlplaces import line_of
from ...dependencies import needed_by_code, said_needs
from ..examination import Examination


def needs(exam: Examination) -> Iterator[Finding]:
    """Needs that run in a circle, that nothing in the code asks for, that are not said, or that are listed later."""
    view, module = exam.view, exam.module
    said = said_needs(view, module)
    if not module.has(BRIEF_FILE):
        return
    line = line_of(module.brief_file.read_text("utf-8", "replace"), ("module", "needs")) if said else 0
    trail = _circle(exam) if said else []
    if trail:
        yield exam.find("compatible.needs-circle", module.brief_file, line, circle=" → ".join(trail))
    used = needed_by_code(view, module, exam.sources)
    for need in said:
        other = view.labels.get(need)
        if other is None or trail:
            continue
        mine, theirs = view.position(module), view.position(other)
        if mine is not None and theirs is not None and theirs > mine:
            yield exam.find("compatible.need-listed-later", module.brief_file, line, need=need)
    for name, (file, number) in used.items():
        if name not in said:
            yield exam.find("compatible.need-unsaid", file, number, need=name, brief=view.relative(module.brief_file))


def _circle(exam: Examination) -> list[str]:
    """Return the labels of a circle of needs that begins and ends with this module; empty when there is none."""
    view, start = exam.view, exam.module.label
    waiting = [[start]]
    seen: set[str] = set()
    while waiting:
        trail = waiting.pop()
        module = view.labels.get(trail[-1])
        for need in said_needs(view, module) if module is not None else ():
            if need == start:
                return [*trail, start]
            if need not in seen:
                seen.add(need)
                waiting.append([*trail, need])
    return []


STATIC = (needs,)
