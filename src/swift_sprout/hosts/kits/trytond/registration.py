"""Registering a module: an entry point names it, so that the host finds it; what is on, the database says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ....core.changes import ChangeSet
from ....core.errors import HostFailed, WrongUse
from ....core.plurals import number_of
from ...contract.exchange import Edit
from .dropping import kept_data
from .reading.entrypoints import GROUP
from .view import ON

if TYPE_CHECKING:
    from .reading.modules import ModuleFiles
    from .view import HostView


def switch_on(view: HostView, module: ModuleFiles, at: str | None) -> Edit:
    """Return the edits that let the host find a module; raises WrongUse for an address, which the host fixes itself."""
    if at is not None:
        raise WrongUse(
            "address-fixed",
            f"--at {at}: the address of a module's pages is /DATABASE/r/ROUTER on this host.",
            "Leave --at out.",
        )
    edit = Edit(ChangeSet(f"enable {module.name}"))
    if view.state(module) in ON:
        edit.already.append(f"the database {view.database_name} has it activated")
    elif view.database is not None:
        edit.state_changes.append(f"activate {module.name} in database {view.database_name}")
    if module.entries:
        edit.already.append(f"an entry point names it ({view.relative(module.entries[0].file)})")
        return edit
    version = module.version or "0.0.0"
    folder = module.folder.parent
    beside = f"{folder.relative_to(view.root).as_posix()}/{module.folder.name}-{version}.dist-info".removeprefix("./")
    metadata = f"Metadata-Version: 2.1\nName: {module.folder.name}\nVersion: {version}\n"
    points = f"[{GROUP}]\n{module.name} = {module.folder.name}\n"
    for name, text in (("METADATA", metadata), ("entry_points.txt", points)):
        path = view.root / beside / name
        before = path.read_bytes() if path.is_file() else None
        if before is not None and name == "entry_points.txt":
            text = before.decode("utf-8", "replace").rstrip("\n") + "\n\n" + points
        elif before is not None:
            continue
        edit.changes.add(f"{beside}/{name}", before, text.encode("utf-8"))
    return edit


def switch_off(view: HostView, module: ModuleFiles) -> Edit:
    """Return what switching off changes in files: nothing, for the host must find a module to let it go."""
    edit = Edit(ChangeSet(f"disable {module.name}"))
    if view.state(module) not in ON:
        edit.already.append("the database does not have it activated")
    else:
        edit.state_changes.append(f"deactivate {module.name} in database {view.database_name}")
        edit.stays.append("its entry point stays, so that the host still finds it")
    try:
        counts = kept_data(view, module)
    except HostFailed:
        counts = {}
    edit.stays += [f"table {table} stays, with {number_of(count, 'row')}" for table, count in counts.items()]
    return edit


def entry_files(view: HostView, module: ModuleFiles) -> ChangeSet:
    """Return the change set that takes a module's entry point away, with its metadata where nothing else is in it."""
    changes = ChangeSet(f"remove the entry point of {module.name}")
    for entry in module.entries:
        if not entry.file.is_relative_to(view.root):
            continue
        content = entry.file.read_text("utf-8")
        rest = [line for line in content.split("\n") if line.partition("=")[0].strip() != module.name]
        if [line for line in rest if "=" in line]:
            changes.add(entry.file.relative_to(view.root).as_posix(), content.encode("utf-8"), "\n".join(rest).encode())
            continue
        for path in sorted(entry.file.parent.iterdir()):
            if path.is_file():
                changes.add(path.relative_to(view.root).as_posix(), path.read_bytes(), None)
    return changes
