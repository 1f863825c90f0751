"""The brief of a module: as it is written down beside it, or what its header says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from .....core.brief import BRIEF_FILE, Brief, brief_from_toml
from .....core.errors import SproutError
from .....core.names import name_family
from ....contract.exchange import ReadBrief

if TYPE_CHECKING:
    from ..view import HostView
    from .modules import ModuleFiles


def written_brief(module: ModuleFiles) -> Brief | None:
    """Return the brief that lies beside a module; None when there is none, or it cannot be read."""
    path = module.folder / BRIEF_FILE
    if module.single or not path.is_file():
        return None
    try:
        return brief_from_toml(path.read_text("utf-8"), BRIEF_FILE)
    except (SproutError, OSError, UnicodeDecodeError):
        return None


def read_parts(view: HostView, module: ModuleFiles) -> ReadBrief:
    """Return the brief of a module; raises WrongUse for one that is written down and wrong."""
    path = module.folder / BRIEF_FILE
    if path.is_file() and not module.single:
        text = path.read_text("utf-8")
        return ReadBrief(brief_from_toml(text, view.relative(path)), [], {})
    header = module.header
    brief = Brief(
        name_family(module.title, internal=module.name.replace("-", "_")),
        summary=header.get("Description"),
        version=module.version or "0.1.0",
        author=header.get("Author"),
        licence=header.get("License"),
        needs=tuple(need.replace("-", "_") for need in module.needs),
    )
    left_out = [(view.relative(module.place), "this kit reads what the header says, and no parts from the code")]
    return ReadBrief(brief, left_out, {})
