"""What tryton.cfg says of itself."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ......core.nearest import nearest
from ..examination import near

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination

_OPTIONS = ("version", "depends", "extras_depend", "xml", "include_dirs", "test_include_dirs")
_SORTS = ("model", "wizard", "report", "router")
_SECTIONS = ("tryton", "register", "register_mixin")


def manifest(one: Examination) -> Iterator[Finding]:
    """A manifest that is not there, cannot be read, or says what the host does not read."""
    module = one.module
    if module.manifest is None:
        there = [path.name for path in module.folder.iterdir()] if module.folder.is_dir() else []
        found = nearest("tryton.cfg", there)
        yield one.find("described.no-manifest", module.folder, near=f"; there is {found}" if found else "")
        return
    path = one.manifest_path
    if module.manifest.broken is not None:
        reason = module.manifest.broken
        yield one.find("described.manifest-broken", path, reason.line, reason=reason.text)
        return
    if "tryton" not in module.manifest.sections:
        yield one.find("described.no-section", path, 1)
        return
    for section, options in module.manifest.sections.items():
        head = section.split()[0] if section.split() else ""
        line = module.manifest.section_lines[section]
        if head not in _SECTIONS:
            yield one.find(
                "described.section-unknown", path, line, section=section, near=nearest(head, _SECTIONS) or "register"
            )
            continue
        for option, items in options.items():
            where = items[0].line if items else line
            if head == "tryton" and option not in _OPTIONS:
                found = nearest(option, _OPTIONS)
                if found:
                    yield one.find("described.option-unknown", path, where, section=section, option=option, near=found)
            elif head == "register" and option not in _SORTS:
                yield one.find(
                    "registered.type-unknown",
                    path,
                    where,
                    section=section,
                    option=option,
                    near=nearest(option, _SORTS) or "model",
                )
    if not module.version:
        yield one.find("described.no-version", path, module.manifest.section_lines["tryton"])


def lists(one: Examination) -> Iterator[Finding]:
    """Lists that stand in one line, and data files that are listed twice."""
    module = one.module
    if module.manifest is None:
        return
    for option in ("depends", "extras_depend", "xml"):
        for item in module.manifest.lines("tryton", option):
            words = item.text.replace(",", " ").split()
            if len(words) > 1:
                yield one.find("described.one-line", one.manifest_path, item.line, option=option, text=item.text)
    seen: set[str] = set()
    for item in module.manifest.lines("tryton", "xml"):
        if item.text in seen:
            yield one.find("described.file-twice", one.manifest_path, item.line, named=item.text)
        seen.add(item.text)


def needs(one: Examination) -> Iterator[Finding]:
    """What the module needs: not there, in a circle, itself, or not said."""
    module, view = one.module, one.view
    known = set(view.by_name)
    if not view.core:
        return
    for item in module.depends:
        if item.text == module.name:
            yield one.find("compatible.self", one.manifest_path, item.line)
        elif item.text not in known and len(item.text.replace(",", " ").split()) == 1:
            yield one.find(
                "compatible.missing", one.manifest_path, item.line, need=item.text, near=near(item.text, known)
            )
    circle = _circle(one)
    if circle:
        line = next((item.line for item in module.depends if item.text == circle[1]), 0)
        yield one.find("compatible.circle", one.manifest_path, line, circle=" -> ".join(circle))
    yield from _undeclared(one)
    for sort, item, depends, _ in module.registered():
        del sort
        said = {other.text for other in [*module.depends, *module.extras]}
        for missing in depends:
            if missing not in said:
                section = f"register {' '.join(depends)}"
                line = module.manifest.section_lines.get(section, item.line) if module.manifest else 0
                yield one.find(
                    "registered.condition-unsaid",
                    one.manifest_path,
                    line,
                    needs=" ".join(depends),
                    missing=missing,
                )
                return


def _circle(one: Examination) -> list[str]:
    waiting = [[one.module.name]]
    seen: set[str] = set()
    while waiting:
        trail = waiting.pop()
        module = one.view.module(trail[-1])
        for item in module.depends if module is not None else ():
            if item.text == one.module.name and len(trail) > 1:
                return [*trail, item.text]
            if item.text not in seen and item.text != trail[-1]:
                seen.add(item.text)
                waiting.append([*trail, item.text])
    return []


def _undeclared(one: Examination) -> Iterator[Finding]:
    from ...dependencies import used_modules

    said = one.view.needed(one.module.name) | {item.text for item in one.module.extras}
    for name, place in used_modules(one.view, one.module).items():
        if name in said or name in ("ir", "res") or name not in one.view.by_name:
            continue
        file, _, line = place.rpartition(":")
        yield one.find("compatible.undeclared", file, int(line), used="what stands there", need=name)


def state(one: Examination) -> Iterator[Finding]:
    """What the database says of the module: off, waiting, on without what it needs; and versions."""
    from ...view import ON

    module, view = one.module, one.view
    if view.database is None or not view.database.states:
        return
    state_ = one.state
    if state_ in ("to activate", "to upgrade", "to remove"):
        yield one.find("enabled.pending", module.folder, state=state_)
    elif state_ not in ON and (module.own or one.named):
        yield one.find("enabled.off", module.folder, state=state_ or "it is not in its list of modules")
    if state_ in ON:
        for item in module.depends:
            other = view.module(item.text)
            if item.text not in ("ir", "res") and other is not None and view.state(other) not in ON:
                said = view.state(other) or "the database does not know it"
                yield one.find("compatible.needs-off", one.manifest_path, item.line, need=item.text, state=said)
    if module.own or one.named:
        yield from _data_behind(one)
    yield from _requires(one)


def _data_behind(one: Examination) -> Iterator[Finding]:
    from ...view import ON

    if one.state not in ON or one.view.database is None:
        return
    there = one.view.database.ids.get(one.module.name, set())
    absent = [
        record
        for record in one.module.records
        if record.id and "." not in record.id and not (record.depends or record.language) and record.id not in there
    ]
    if absent:
        first = absent[0]
        yield one.find("installed.data-behind", first.path, first.line, count=len(absent), id=first.id)


def _requires(one: Examination) -> Iterator[Finding]:
    from .....contract.kitdata import matches

    for entry in one.module.entries[:1]:
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
                if one.view.version and not matches(one.view.version, conditions):
                    yield one.find(
                        "compatible.requires",
                        path,
                        number,
                        wanted=f"trytond {conditions}",
                        version=one.view.version,
                        series=one.view.series,
                    )
