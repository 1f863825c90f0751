"""What tryton.cfg says of itself."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ......core.nearest import nearest
from ...dependencies import used_modules
from ...view import ON
from ..examination import near

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination

_OPTIONS = ("version", "depends", "extras_depend", "xml", "include_dirs", "test_include_dirs")
_SORTS = ("model", "wizard", "report", "router")
_SECTIONS = ("tryton", "register", "register_mixin")


def manifest(exam: Examination) -> Iterator[Finding]:
    """A manifest that is not there, cannot be read, or says what the host does not read."""
    module = exam.module
    if module.manifest is None:
        there = [path.name for path in module.folder.iterdir()] if module.folder.is_dir() else []
        found = nearest("tryton.cfg", there)
        yield exam.find("described.no-manifest", module.folder, near=f"; there is {found}" if found else "")
        return
    path = exam.manifest_path
    if module.manifest.broken is not None:
        reason = module.manifest.broken
        yield exam.find("described.manifest-broken", path, reason.line, reason=reason.text)
        return
    if "tryton" not in module.manifest.sections:
        yield exam.find("described.no-section", path, 1)
        return
    for section, options in module.manifest.sections.items():
        head = section.split()[0] if section.split() else ""
        line = module.manifest.section_lines[section]
        if head not in _SECTIONS:
            yield exam.find(
                "described.section-unknown", path, line, section=section, near=nearest(head, _SECTIONS) or "register"
            )
            continue
        for option, items in options.items():
            where = items[0].line if items else line
            if head == "tryton" and option not in _OPTIONS:
                found = nearest(option, _OPTIONS)
                if found:
                    yield exam.find("described.option-unknown", path, where, section=section, option=option, near=found)
            elif head == "register" and option not in _SORTS:
                yield exam.find(
                    "registered.type-unknown",
                    path,
                    where,
                    section=section,
                    option=option,
                    near=nearest(option, _SORTS) or "model",
                )
    if not module.version:
        yield exam.find("described.no-version", path, module.manifest.section_lines["tryton"])


def lists(exam: Examination) -> Iterator[Finding]:
    """Lists that stand in one line, and data files that are listed twice."""
    module = exam.module
    if module.manifest is None:
        return
    for option in ("depends", "extras_depend", "xml"):
        for item in module.manifest.lines("tryton", option):
            words = item.text.replace(",", " ").split()
            if len(words) > 1:
                yield exam.find("described.one-line", exam.manifest_path, item.line, option=option, text=item.text)
    seen: set[str] = set()
    for item in module.manifest.lines("tryton", "xml"):
        if item.text in seen:
            yield exam.find("described.file-twice", exam.manifest_path, item.line, named=item.text)
        seen.add(item.text)


def needs(exam: Examination) -> Iterator[Finding]:
    """What the module needs: not there, in a circle, itself, or not said."""
    module, view = exam.module, exam.view
    known = set(view.by_name)
    if not view.core:
        return
    for item in module.depends:
        if item.text == module.name:
            yield exam.find("compatible.self", exam.manifest_path, item.line)
        elif item.text not in known and len(item.text.replace(",", " ").split()) == 1:
            yield exam.find(
                "compatible.missing", exam.manifest_path, item.line, need=item.text, near=near(item.text, known)
            )
    circle = _circle(exam)
    if circle:
        line = next((item.line for item in module.depends if item.text == circle[1]), 0)
        yield exam.find("compatible.circle", exam.manifest_path, line, circle=" -> ".join(circle))
    yield from _undeclared(exam)
    for one in module.registered:
        said = {other.text for other in [*module.depends, *module.extras]}
        for missing in one.depends:
            if missing not in said:
                section = f"register {' '.join(one.depends)}"
                line = module.manifest.section_lines.get(section, one.line) if module.manifest else one.line
                yield exam.find(
                    "registered.condition-unsaid",
                    one.path,
                    line,
                    needs=" ".join(one.depends),
                    missing=missing,
                )
                return


def _circle(exam: Examination) -> list[str]:
    waiting = [[exam.module.name]]
    seen: set[str] = set()
    while waiting:
        trail = waiting.pop()
        module = exam.view.module(trail[-1])
        for item in module.depends if module is not None else ():
            if item.text == exam.module.name and len(trail) > 1:
                return [*trail, item.text]
            if item.text not in seen and item.text != trail[-1]:
                seen.add(item.text)
                waiting.append([*trail, item.text])
    return []


def _undeclared(exam: Examination) -> Iterator[Finding]:
    said = exam.view.needed(exam.module.name) | {item.text for item in exam.module.extras}
    for name, place in used_modules(exam.view, exam.module).items():
        if name in said or name in ("ir", "res") or name not in exam.view.by_name:
            continue
        file, _, line = place.rpartition(":")
        yield exam.find("compatible.undeclared", file, int(line), used="what stands there", need=name)


def state(exam: Examination) -> Iterator[Finding]:
    """What the database says of the module: off, waiting, on without what it needs; and versions."""
    module, view = exam.module, exam.view
    if view.database is None or not view.database.states:
        return
    state_ = exam.state
    if state_ in ("to activate", "to upgrade", "to remove"):
        yield exam.find("enabled.pending", module.folder, state=state_)
    elif state_ not in ON and (module.own or exam.named):
        yield exam.find("enabled.off", module.folder, state=state_ or "it is not in its list of modules")
    if state_ in ON:
        for item in module.depends:
            other = view.module(item.text)
            if item.text not in ("ir", "res") and other is not None and view.state(other) not in ON:
                said = view.state(other) or "the database does not know it"
                yield exam.find("compatible.needs-off", exam.manifest_path, item.line, need=item.text, state=said)
    if module.own or exam.named:
        yield from _data_behind(exam)
    yield from _requires(exam)


def _data_behind(exam: Examination) -> Iterator[Finding]:
    if exam.state not in ON or exam.view.database is None:
        return
    there = exam.view.database.ids.get(exam.module.name, set())
    absent = [
        record
        for record in exam.module.records
        if record.id and "." not in record.id and not (record.depends or record.language) and record.id not in there
    ]
    if absent:
        first = absent[0]
        yield exam.find("installed.data-behind", first.path, first.line, count=len(absent), id=first.id)


def data_changed(exam: Examination) -> Iterator[Finding]:
    """Data records that an update would change: the database has them as the files were before."""
    changed = exam.live.changed.get(exam.module.name, ()) if exam.live is not None else ()
    records = [exam.module.ids[fs_id] for fs_id in changed if fs_id in exam.module.ids]
    if records and exam.view.database is not None:
        last = exam.view.database.path.stat().st_mtime
        newer = [one for one in records if one.path.stat().st_mtime >= last]
        if newer:
            yield exam.find("served.stale-data", newer[0].path, newer[0].line, count=len(newer), id=newer[0].id)


def _requires(exam: Examination) -> Iterator[Finding]:
    from .....contract.kitdata import matches

    for entry in exam.module.entries[:1]:
        path = entry.file.parent / "METADATA"
        try:
            lines = path.read_text("utf-8", "replace").splitlines()
        except OSError:
            continue
        for number, line in enumerate(lines, 1):
            head, _, wanted = line.partition(":")
            name, sign, rest = wanted.strip().partition("<" if "<" in wanted.split(">")[0] else ">")
            if head == "Requires-Dist" and name.strip() == "trytond" and sign and ";" not in wanted:
                conditions = (sign + rest).replace(" ", "")
                if exam.view.version and not matches(exam.view.version, conditions):
                    yield exam.find(
                        "compatible.requires",
                        path,
                        number,
                        wanted=f"trytond {conditions}",
                        version=exam.view.version,
                        series=exam.view.series,
                    )
