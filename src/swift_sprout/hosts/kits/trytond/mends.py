"""Mending findings: the edit that a rule's mend describes, where it can be made safely."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ....core.changes import ChangeSet
from ....core.errors import Refused
from ...contract.exchange import Mend
from .reading.datafile import DataFile
from .registration import switch_on
from .view import ON

if TYPE_CHECKING:
    from pathlib import Path

    from ....core.findings import Finding
    from .reading.inifile import Item
    from .reading.modules import ModuleFiles
    from .view import HostView


def mend(view: HostView, finding: Finding) -> Mend:
    """Return the mend of a finding; raises Refused where it is not safe to make by itself."""
    module = view.module(finding.module)
    if module is None or not module.own:
        raise Refused("not-mendable", f"{finding.module} is no module of this host's own.", finding.mend)
    maker = _MENDS.get(finding.code)
    changes = ChangeSet(f"mend {finding.code} of {module.name}")
    if finding.code in ("found.no-entry-point", "enabled.off"):
        return Mend(switch_on(view, module, None).changes, enable=finding.code == "enabled.off")
    if finding.code in (
        "enabled.pending",
        "installed.tables-behind",
        "installed.data-behind",
        "served.stale-data",
    ):
        if view.state(module) not in (*ON, "to activate"):
            raise Refused("not-mendable", f"{module.name} is not switched on.", f"swift-sprout enable {module.name}")
        return Mend(changes, True)
    if maker is None:
        raise Refused("not-mendable", f"{finding.code} is not mended by itself.", finding.mend)
    path, before, after = maker(view, module, finding)
    changes.add(path.relative_to(view.root).as_posix(), before, after)
    return Mend(changes)


Edited = tuple["Path", bytes | None, bytes]


def _init(view: HostView, module: ModuleFiles, finding: Finding) -> Edited:
    return module.folder / "__init__.py", None, b""


def _entry(view: HostView, module: ModuleFiles, finding: Finding) -> Edited:
    path = view.root / finding.file
    before, lines = _lines(path)
    lines[finding.line - 1] = f"{module.name} = {module.folder.name}"
    return path, before, _joined(lines)


def _lines(path: Path) -> tuple[bytes, list[str]]:
    before = path.read_bytes()
    return before, before.decode("utf-8").split("\n")


def _joined(lines: list[str]) -> bytes:
    return "\n".join(lines).encode("utf-8")


def _split(view: HostView, module: ModuleFiles, finding: Finding) -> Edited:
    """Give each name of a list a line of its own."""
    path = module.folder / "tryton.cfg"
    before, lines = _lines(path)
    line = lines[finding.line - 1]
    head, sign, rest = "", "", line
    if not line[:1].isspace():
        cut = min(at for at in (line.find("="), line.find(":")) if at >= 0)
        head, sign, rest = line[:cut], line[cut], line[cut + 1 :]
    names = rest.replace(",", " ").split()
    new = ([f"{head}{sign}"] if head else []) + [f"    {name}" for name in names]
    lines[finding.line - 1 : finding.line] = new
    return path, before, _joined(lines)


def _rename(view: HostView, module: ModuleFiles, finding: Finding) -> Edited:
    """Write the option or section that the host knows."""
    path = module.folder / "tryton.cfg"
    before, lines = _lines(path)
    known = finding.value("near")
    number = finding.line - 1
    if finding.code == "described.section-unknown":
        lines[number] = f"[{known}]"
    else:
        while lines[number][:1].isspace() and number > 0:
            number -= 1
        line = lines[number]
        cut = min(at for at in (line.find("="), line.find(":")) if at >= 0)
        lines[number] = known + line[cut:]
    return path, before, _joined(lines)


def _drop_line(view: HostView, module: ModuleFiles, finding: Finding) -> Edited:
    path = module.folder / "tryton.cfg"
    before, lines = _lines(path)
    del lines[finding.line - 1]
    return path, before, _joined(lines)


def _add_item(section: str, option: str, item: str, module: ModuleFiles, ahead_of: int = 0) -> Edited:
    """Add a line to a list of the manifest; the section and the option are made where they are not there.

    ahead_of -- the line of the list that the item goes ahead of; 0 puts it last
    """
    path = module.folder / "tryton.cfg"
    before, lines = _lines(path)
    assert module.manifest is not None
    there = module.manifest.lines(section, option)
    if there:
        end = "\r" if lines[0].endswith("\r") else ""
        lines.insert(ahead_of - 1 if ahead_of else there[-1].line, f"    {item}{end}")
    elif section in module.manifest.section_lines:
        lines[module.manifest.section_lines[section] : module.manifest.section_lines[section]] = [
            f"{option}:",
            f"    {item}",
        ]
    else:
        while lines and not lines[-1].strip():
            lines.pop()
        lines += ["", f"[{section}]", f"{option}:", f"    {item}", ""]
    return path, before, _joined(lines)


def _list_class(view: HostView, module: ModuleFiles, finding: Finding) -> Edited:
    return _add_item("register", finding.value("sort"), finding.value("listed"), module)


def _move_class(view: HostView, module: ModuleFiles, finding: Finding) -> Edited:
    path, before, after = _drop_line(view, module, finding)
    assert before is not None
    listed = before.decode("utf-8").split("\n")[finding.line - 1].strip()
    sort = finding.value("sort")
    lines = after.decode("utf-8").split("\n")
    at = next((number for number, line in enumerate(lines) if line.partition(":")[0] == sort), None)
    if at is not None:
        lines.insert(at + 1, f"    {listed}")
    else:
        head = next(number for number, line in enumerate(lines) if line.strip() == "[register]")
        lines[head + 1 : head + 1] = [f"{sort}:", f"    {listed}"]
    return path, before, _joined(lines)


def _list_file(view: HostView, module: ModuleFiles, finding: Finding) -> Edited:
    """List a data file where what it refers to is loaded before it, and what refers to it after."""
    named = finding.value("named")
    added = DataFile(module.folder / named)
    brings = {record.id for record in added.records}
    listed = [(item, DataFile(module.folder / path)) for item, path in module.data_items() if _is_own(module, item)]
    known = {record.id for record in module.records}
    absent = sorted(_references(added, module.name) - known - brings)
    if absent:
        why = f"{named} refers to {absent[0]}, which no listed data file of {module.name} brings."
        raise Refused("not-mendable", why, "List or write the file that brings it first.")
    after = [at for at, (_, file) in enumerate(listed) if _references(added, module.name) & _ids(file)]
    before = [at for at, (_, file) in enumerate(listed) if _references(file, module.name) & (brings - known)]
    if not before:
        return _add_item("tryton", "xml", named, module)
    if after and after[-1] >= before[0]:
        first, last = listed[before[0]][1].path.name, listed[after[-1]][1].path.name
        why = f"{named} must be loaded after {last} and before {first}, which comes first today."
        if first == last:
            why = f"{named} and {first} need each other."
        raise Refused("not-mendable", why, "Order the files, or move the records that need each other into one.")
    return _add_item("tryton", "xml", named, module, listed[before[0]][0].line)


def _is_own(module: ModuleFiles, item: Item) -> bool:
    """True for a line of the module's own manifest, not of one that it includes."""
    return module.manifest is not None and item in module.manifest.lines("tryton", "xml")


def _ids(file: DataFile) -> set[str]:
    return {record.id for record in file.records}


def _references(file: DataFile, module: str) -> set[str]:
    """Return the ids of a module that a data file's records refer to."""
    named = [field.ref.rpartition(".") for record in file.records for field in record.fields if field.ref]
    return {name for owner, _, name in named if owner in ("", module)}


def _need(view: HostView, module: ModuleFiles, finding: Finding) -> Edited:
    return _add_item("tryton", "depends", finding.value("need"), module)


def _extra(view: HostView, module: ModuleFiles, finding: Finding) -> Edited:
    return _add_item("tryton", "extras_depend", finding.value("missing"), module)


_MENDS = {
    "found.no-init": _init,
    "found.entry-elsewhere": _entry,
    "described.one-line": _split,
    "described.option-unknown": _rename,
    "described.section-unknown": _rename,
    "described.file-twice": _drop_line,
    "registered.class-unlisted": _list_class,
    "registered.type-unknown": _rename,
    "registered.sort-wrong": _move_class,
    "registered.condition-unsaid": _extra,
    "compatible.self": _drop_line,
    "compatible.undeclared": _need,
    "installed.file-unlisted": _list_file,
}
