"""``new``: from what was given to a brief, and from the brief to a module on disk."""

from __future__ import annotations

from pathlib import Path
from typing import Any, NamedTuple

from ..core.brief import BRIEF_FILE, Brief, brief_from_toml, contradictions
from ..core.changes import ChangeSet
from ..core.errors import Problem, WrongUse
from ..core.modulefolders import ModuleFolder
from ..core.names import NameFamily, name_family
from ..core.nearest import did_you_mean
from ..core.parts.kinds import KINDS, kind_named
from ..core.parts.pages import Page
from ..core.parts.records import Record
from .hosting import OpenHost
from .resting import Ground


class Wanted(NamedTuple):
    """What the options of ``new`` say; texts are empty where an option was not given."""

    name: str = ""
    internal: str = ""
    owner: str = ""
    summary: str = ""
    version: str = ""
    author: str = ""
    group: str = ""
    licence: str = ""
    needs: tuple[str, ...] = ()
    pages: tuple[str, ...] = ()
    records: tuple[str, ...] = ()
    no_page: bool = False
    briefs: tuple[str, ...] = ()
    place: str = ""


class NewModule(NamedTuple):
    """A module that was made, or would be: its brief, its place, the change set and the next commands.

    module -- its internal name, as the host spells it
    left   -- facts of the brief that the module's files have no place for, a sentence each
    """

    brief: Brief
    module: str
    place: ModuleFolder
    changes: ChangeSet
    folder: str
    next_steps: list[str]
    left: list[str]


def brief_of(wanted: Wanted) -> Brief:
    """Make the brief from options, or from a brief file with options on top; raises WrongUse."""
    if wanted.briefs:
        return _from_file(wanted)
    name = name_family(wanted.name, internal=wanted.internal, owner=wanted.owner)
    records = tuple(part_from_line("record", text) for text in wanted.records)
    pages = tuple(part_from_line("page", text) for text in wanted.pages)
    if not pages and not wanted.no_page:
        pages = _default_pages(name, records, wanted.summary)
    brief = Brief(
        name,
        wanted.summary,
        wanted.version or "0.1.0",
        wanted.author,
        wanted.group,
        wanted.licence,
        wanted.needs,
        records=records,
        pages=pages,
    )
    _refuse_contradictions(brief)
    return brief


def _refuse_contradictions(brief: Brief) -> None:
    found = [
        Problem("/".join(str(part) for part in path), what, remedy) for path, what, remedy in contradictions(brief)
    ]
    if found:
        raise WrongUse("options-contradict", "The options contradict each other.", "Fix what is listed.", tuple(found))


def _from_file(wanted: Wanted) -> Brief:
    path = Path(wanted.briefs[0])
    try:
        text = path.read_text("utf-8")
    except OSError as error:
        reason = (error.strerror or str(error)).lower()
        raise WrongUse("brief-unreadable", f"--brief {path}: {reason}.", "Give the path of a brief.") from None
    except UnicodeDecodeError:
        raise WrongUse("brief-unreadable", f"--brief {path}: it is not UTF-8 text.", "Save it as UTF-8.") from None
    brief = brief_from_toml(text, str(path))
    if wanted.name or wanted.pages or wanted.records:
        given = "a name" if wanted.name else "parts"
        raise WrongUse("brief-and-options", f"--brief and {given} were both given.", "Say it in the brief.")
    return brief


def part_from_line(kind: str, text: str) -> Any:
    """Make a part of its one line; raises WrongUse."""
    known = kind_named(kind)
    entry = known.from_line(text)
    for key in known.needed:
        if not entry.get(key):
            raise WrongUse("part-incomplete", f"The {kind} {text!r} has no {key}.", f"Write it as: {known.example}")
    return known.make(entry)


def _default_pages(name: NameFamily, records: tuple[Record, ...], summary: str) -> tuple[Page, ...]:
    if not records:
        return (Page(f"/{name.kebab}", name.title, summary),)
    return tuple(Page(f"/{record.plural.kebab}", record.plural.title, "", record.name.title) for record in records)


def plan(opened: OpenHost, wanted: Wanted) -> NewModule:
    """Work out the module that ``new`` would make; nothing is written. Raises SproutError when it cannot be made."""
    made = _untidied(opened, wanted, Ground(opened))
    return made._replace(changes=opened.host.tidied([made.changes])[0])


def _untidied(opened: OpenHost, wanted: Wanted, ground: Ground) -> NewModule:
    """Work out a module, its code not yet in the project's style; ``ground`` is what it may rest on."""
    brief = brief_of(wanted)
    opened.host.check_name(brief.name)
    opened.kit.data.refuse_what_is_not_carried(kind for kind in KINDS if brief.parts(kind))
    brief = ground.with_needs(brief)
    ground.refuse_what_is_absent(brief, "made")
    ground.refuse_unseen(brief, brief.placements)
    place = _place(opened, wanted.place)
    changes = opened.host.compose(brief, place)
    label = opened.host.label(brief.name)
    folder = next(change.path for change in changes.changes if change.path.endswith(BRIEF_FILE)).rpartition("/")[0]
    steps = [f"swift-sprout enable {label}", f"swift-sprout check {label}", f"swift-sprout serve {label}"]
    return NewModule(brief, label, place, changes, folder, steps, _without_place(opened, brief))


def _without_place(opened: OpenHost, brief: Brief) -> list[str]:
    """Tell the facts of a brief that stay there alone, for modules of the host have no place for them."""
    said = {"author": brief.author, "group": brief.group, "licence": brief.licence, "owner": " ".join(brief.name.owner)}
    data = opened.kit.data
    return [
        f"{data.title} modules have no place for the {fact} {said[fact]!r}: it stays in the brief"
        for fact in data.facts.brief_alone
        if said[fact]
    ]


def _place(opened: OpenHost, wanted: str) -> ModuleFolder:
    places = opened.host.module_folders()
    if not wanted:
        return places[0]
    plain = wanted.strip("/").removeprefix("./") or "."
    for place in places:
        if place.folder == plain:
            return place
    known = [place.folder for place in places]
    raise WrongUse("place-unknown", f"--in {wanted}: the host looks for no modules there.", did_you_mean(plain, known))


def make(opened: OpenHost, wanted: Wanted) -> NewModule:
    """Make the module on disk, all or nothing."""
    named = wanted.name or "".join(wanted.briefs[:1])
    with opened.writing(f"new {named}"):
        made = plan(opened, wanted)
        opened.journal.apply(made.changes)
    return made


def make_all(opened: OpenHost, wanted: Wanted, preview: bool) -> list[NewModule]:
    """Make a module of each brief that is named, all of them or none; raises Refused where two are the same."""
    if preview:
        return _plan_all(opened, wanted)[0]
    title = f"new {len(wanted.briefs)} modules"
    with opened.writing(title):
        made, whole = _plan_all(opened, wanted)
        opened.journal.apply(whole)
    return made


def _plan_all(opened: OpenHost, wanted: Wanted) -> tuple[list[NewModule], ChangeSet]:
    made: list[NewModule] = []
    whole = ChangeSet(f"new {len(wanted.briefs)} modules")
    names: dict[str, str] = {}
    paths: dict[str, str] = {}
    apart = opened.kit.data.facts.addresses_apart
    from ..running.cores import both_cores

    opened.host.module_folders()  # read once, before the work is shared out
    ground = Ground(opened, [brief_of(wanted._replace(briefs=(one,))) for one in wanted.briefs])
    planned = both_cores(lambda one: _untidied(opened, wanted._replace(briefs=(one,)), ground), wanted.briefs, 20)
    tidied = opened.host.tidied([one.changes for one in planned])
    planned = [one._replace(changes=changes) for one, changes in zip(planned, tidied, strict=True)]
    for brief, one in zip(wanted.briefs, planned, strict=True):
        label = one.module
        if label in names:
            raise WrongUse("name-twice", f"{brief} and {names[label]} are both {label}.", "Rename one of them.")
        names[label] = brief
        for path in [*(page.path for page in one.brief.pages), *(each.path for each in one.brief.endpoints)]:
            if path in paths and not apart:
                raise WrongUse("page-twice", f"{brief} and {paths[path]} both have {path}.", "Change one path.")
            paths[path] = brief
        for change in one.changes.changes:
            whole.add(*change)
        made.append(one)
    return made, whole
