"""Mending findings: the step or edit that a rule's mend describes, where it can be made safely."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ....core.changes import ChangeSet
from ....core.errors import Refused
from ...contract.exchange import Mend

if TYPE_CHECKING:
    from ....core.findings import Finding
    from .reading.modules import ModuleFiles
    from .view import HostView

_ON = ("enabled.off", "enabled.main-file-renamed")
_SETTLED = (
    "installed.table-absent",
    "installed.column-absent",
    "installed.column-type",
    "installed.role-absent",
    "installed.capability-absent",
    "installed.capability-more",
    "routed.rules-stale",
)
_CATALOGUES = ("placed.catalogue-not-compiled", "placed.catalogue-older")


def mend(view: HostView, module: ModuleFiles, finding: Finding) -> Mend:
    """Return the mend of a finding; raises Refused where it is not safe to make by itself."""
    changes = ChangeSet(f"mend {finding.code} of {module.name}")
    if finding.code in _ON:
        return Mend(changes, enable=True)
    if finding.code in _CATALOGUES:
        source = view.root / finding.file
        compiled = source.with_suffix(".mo")
        before = compiled.read_bytes() if compiled.is_file() else None
        changes.add(compiled.relative_to(view.root).as_posix(), before, _compiled(source.read_text("utf-8")))
        return Mend(changes)
    if finding.code in _SETTLED:
        if not view.is_on(module):
            raise Refused("not-mendable", f"{module.name} is not switched on.", f"swift-sprout enable {module.name}")
        return Mend(changes, True)
    raise Refused("not-mendable", f"{finding.code} is not mended by itself.", finding.mend)


def _compiled(text: str) -> bytes:
    import polib

    made: bytes = polib.pofile(text).to_binary()
    return made
