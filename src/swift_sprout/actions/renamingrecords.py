"""``rename MODULE NAME --record RECORD``: a record gets another name, in the brief and in all that is made of it."""

from __future__ import annotations

from ..core.brief import BRIEF_FILE, brief_from_toml
from ..core.errors import Refused, WrongUse
from ..core.names import name_family
from ..core.nearest import did_you_mean
from ..core.parts.records import Record
from ..core.plurals import number_of
from ..core.renaming.briefs import rename_in_brief
from ..core.renaming.records import record_renaming
from .hosting import OpenHost
from .merging import Refreshed
from .modulefiles import ModuleOnDisk
from .refreshing import refresh


def rename_record(opened: OpenHost, module: str, record: str, to: str, take_doubtful: bool, preview: bool) -> Refreshed:
    """Give a record of a module another name; its rows go along as the host can carry them.

    take_doubtful -- change titles, addresses and texts of the brief that hold the word as well

    Raises WrongUse for a record that is not there and a name that cannot be, and Refused for a module without a brief,
    or whose brief was changed since its files were made.
    """
    told: list[str] = []

    def edited(held: ModuleOnDisk) -> bytes:
        return _edited(held, record, to, take_doubtful, told)

    done = refresh(opened, module, preview, edited)
    done.left = [*told, *done.left]
    return done


def _edited(module: ModuleOnDisk, record: str, to: str, take_doubtful: bool, told: list[str]) -> bytes:
    """Return the module's brief with the record renamed, and tell what in it is left."""
    brief, made = module.brief, module.made
    assert brief is not None and made is not None
    old = brief.record(record)
    if old is None:
        own = [one.name.title for one in brief.records]
        raise WrongUse("record-unknown", f"{module.name} has no record {record!r}.", did_you_mean(record, own))
    new = Record(name_family(to, what="record"), old.fields, old.summary, old.order_by, "", old.shown_as)
    if new.name.words == old.name.words:
        raise WrongUse("name-same", f"The record is called {old.name.title} already.", "Give another name.")
    other = brief.record(new.name.title)
    if other is not None:
        sentence = f"{module.name} has a record {other.name.title} already; nothing was changed."
        raise Refused("record-taken", sentence, "Give another name.")
    content = module.content(BRIEF_FILE) or b""
    last = made.files.get(BRIEF_FILE, content).decode("utf-8", "replace")
    if brief_from_toml(last, BRIEF_FILE).records != brief.records:
        raise Refused(
            "brief-ahead",
            f"The records in {module.folder}/{BRIEF_FILE} were changed since its files were made; nothing was changed.",
            f"Bring the files up to it first: swift-sprout refresh {module.name}",
        )
    place = f"{module.folder}/{BRIEF_FILE}"
    others = [brief.name, *(one.name for one in brief.records if one is not old)]
    renaming = record_renaming(old, new, others)
    renamed = rename_in_brief(content.decode("utf-8"), place, renaming, take_doubtful)
    words = [one for one in renamed.doubtful if one.doubtful]
    if words:
        lines = sorted({one.line for one in words})
        told.append(
            f"{number_of(len(words), 'text')} of the brief may mean something else and stay (line "
            f"{', '.join(map(str, lines))}); with `--doubtful take` they change as well"
        )
    if old.plural_title:
        told.append(f"its plural in the brief is still {old.plural_title!r}")
    return renamed.text.encode("utf-8")
