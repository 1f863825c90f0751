"""Whether the host finds the package: entry points and folders."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ......core.nearest import misspelt

if TYPE_CHECKING:
    from ......core.findings import Finding as Found
    from ..examination import Examination


def entry_points(exam: Examination) -> Iterator[Found]:
    """Entry points that are not there, that name something else, or that are there twice."""
    module, view = exam.module, exam.view
    if not module.own:
        return
    if not module.folder.name.isidentifier():
        suggestion = "".join(letter if letter.isalnum() else "_" for letter in module.folder.name).lower()
        yield exam.find("found.folder-name", module.folder, suggestion=suggestion)
        return
    if not module.entries:
        yield exam.find("found.no-entry-point", module.folder)
        return
    if len(module.entries) > 1:
        places = ", ".join(f"{view.relative(entry.file)}:{entry.line}" for entry in module.entries)
        first = module.entries[0]
        yield exam.find("found.two-entry-points", first.file, first.line, count=len(module.entries), places=places)
        return
    entry = module.entries[0]
    last = entry.package.rpartition(".")[2]
    if entry.name != last and module.folder.name == last and _is_meant(exam, last):
        yield exam.find("found.entry-misspelt", entry.file, entry.line, name=entry.name, folder=last)
        return
    if view.package_folder(entry.package) is None:
        yield exam.find(
            "found.entry-elsewhere", entry.file, entry.line, package=entry.package, folder=module.folder.name
        )


def _is_meant(exam: Examination, folder: str) -> bool:
    """True where an entry point must mean its folder's name: the database knows that one, or only a slip parts them."""
    states = exam.view.database.states if exam.view.database is not None else {}
    entry = exam.module.entries[0]
    return entry.name not in states and (folder in states or misspelt(entry.name, [folder]) is not None)


def package(exam: Examination) -> Iterator[Found]:
    """A folder that Python does not take for a package, and packages that hide each other."""
    module, view = exam.module, exam.view
    if not module.own:
        return
    if module.entries and not module.has("__init__.py"):
        yield exam.find("found.no-init", module.folder / "__init__.py")
    others = [
        root / module.folder.name
        for root in view.import_path
        if (root / module.folder.name / "__init__.py").is_file() and root / module.folder.name != module.folder
    ]
    if module.entries and others:
        yield exam.find("found.hidden", module.folder, package=module.folder.name, other=view.relative(others[0]))
