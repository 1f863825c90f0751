"""``adopt``: the brief of a module that was made by hand, read from its files."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, NamedTuple

from ..core.brief import BRIEF_FILE, Brief
from ..core.brieftext import brief_text, table_text
from ..core.changes import ChangeSet
from ..core.errors import Refused
from ..core.made import MADE_FILE, Made
from ..core.parts.kinds import KINDS, kind_named
from .hosting import OpenHost, carried_out
from .modulefiles import ModuleOnDisk


class Adopted(NamedTuple):
    """What ``adopt`` wrote, or would write; left_out is what the brief cannot say, as places with sentences."""

    module: str
    brief: Brief
    changes: ChangeSet
    left_out: list[tuple[str, str]]


def adopt(opened: OpenHost, name: str, preview: bool) -> Adopted:
    """Write the brief of a module; one that has a brief gets the parts added that its files show and it does not name.

    Raises Refused when the files leave nothing to say.
    """
    return carried_out(opened, f"adopt {name}", lambda: _planned(opened, name), preview)


def _below_its_address(part: Any, written: Iterable[Any], there: Iterable[Any]) -> bool:
    """True for a page or endpoint that the brief has, and that the host has below the module's own address alone."""
    path = getattr(part, "path", "")
    plain = {getattr(one, "path", "") for one in there}
    return any(path.endswith(one.path) and one.path not in plain for one in written if path and one.path.strip("/"))


def _planned(opened: OpenHost, name: str) -> Adopted:
    module = ModuleOnDisk(opened, name)
    read = opened.host.read_brief(module.name)
    written = module.brief
    changes = ChangeSet(f"adopt {module.name}")
    if written is None:
        if read.brief.name.snake != module.path.name:
            raise Refused(
                "label-not-folder",
                f"{module.name} has the label {read.brief.name.snake}, but its folder is {module.path.name}.",
                "A brief has one internal name; adopt modules whose label is that of their folder.",
            )
        brief = read.brief
        module.put(changes, BRIEF_FILE, brief_text(brief).encode("utf-8"))
    else:
        from ..edits.toml import add_table

        brief = written
        source = module.brief_source()
        text = source.text
        for kind in KINDS:
            known = {part.key for part in brief.parts(kind)}
            for part in read.brief.parts(kind):
                if part.key not in known and not _below_its_address(part, written.parts(kind), read.brief.parts(kind)):
                    text = add_table(text, kind, table_text(kind, kind_named(kind).data(part)))
                    brief = brief.with_part(kind, part)
        changes.add(f"{module.folder}/{BRIEF_FILE}", source.content(), source.with_text(text).content())
    if changes or module.made is None:
        files = opened.host.generate(module.name, brief)
        files = {path: content for path, content in files.items() if module.content(path) is not None}
        files[BRIEF_FILE] = brief_text(brief).encode("utf-8")
        module.put(changes, MADE_FILE, Made(opened.kit.data.id, files, adopted=written is None).content())
    return Adopted(module.name, brief, changes, read.left_out)
