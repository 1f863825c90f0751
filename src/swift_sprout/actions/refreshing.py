"""``refresh``: a module brought up to its changed brief, kit or tool by three-way merge."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from .. import __version__
from ..core.brief import BRIEF_FILE, Brief, brief_from_toml
from ..core.changes import ChangeSet
from ..core.errors import HostFailed, Refused, SproutError, WrongUse
from ..core.made import MADE_FILE, Made
from ..core.parts.records import Record
from ..core.parts.renamed import gone_fields, gone_records, renamed_records
from ..core.renaming.identifiers import Identifiers
from ..edits.carrying import NotCarried
from ..edits.catalogue import compiled
from .hosting import OpenHost
from .merging import Refreshed, merge_file, merge_moved_file, refuse_marks
from .modulefiles import ModuleOnDisk
from .recordnames import carry_names, names_of_records

ROWS_GO_ALONG = "its rows go along"


def refresh(
    opened: OpenHost, name: str, preview: bool, edit: Callable[[ModuleOnDisk], bytes] | None = None
) -> Refreshed:
    """Bring a module up to its brief; raises WrongUse for a brief that is wrong, and Refused where it has no ground.

    edit -- returns the brief as it is to be, where it is not to be as it stands
    """
    if preview:
        return _planned(opened, name, edit)
    with opened.writing(f"refresh {name}"):
        done = _planned(opened, name, edit)
        if not done.changes:
            return done
        number = opened.journal.apply(done.changes)
        if done.renamed.names:
            try:
                done.steps = opened.host.carry_state(done.module, done.renamed)
            except BaseException:
                opened.journal.undo(number)
                raise
            for step in done.steps:
                opened.journal.note(number, f"{step.title} (stays: `undo` takes back the files alone)")
    return done


def _planned(opened: OpenHost, name: str, edit: Callable[[ModuleOnDisk], bytes] | None) -> Refreshed:
    module = ModuleOnDisk(opened, name)
    brief, made = module.brief, module.made
    if brief is None or made is None:
        missing = BRIEF_FILE if brief is None else MADE_FILE
        raise Refused(
            "nothing-to-compare",
            f"{module.folder} has no {missing}; nothing was changed.",
            f"Write it from the module's files: swift-sprout adopt {module.name}",
        )
    if module.path.name not in (brief.name.snake, brief.name.kebab, brief.name.camel):
        raise WrongUse(
            "brief-other-module",
            f"{module.folder}/{BRIEF_FILE} is the brief of {brief.name.snake}, not of {module.path.name}.",
            "Set the internal name back; a module is not renamed by a refresh.",
        )
    refuse_marks(module, made.files)
    before = _brief_before(module, made, brief)
    changes = ChangeSet(f"refresh {module.name}")
    if edit is not None:
        edited = edit(module)
        module.put(changes, BRIEF_FILE, edited)
        brief = brief_from_toml(edited.decode("utf-8"), f"{module.folder}/{BRIEF_FILE}")
    new = opened.host.generate(module.name, brief)
    if made.adopted:
        never = set(opened.host.generate(module.name, before)) - set(made.files)
        new = {path: content for path, content in new.items() if path not in never}
    result = Refreshed(module.name, changes)
    names = names_of_records(module, before, brief)
    moves = {path: to for path, to in names.moves.items() if path in made.files and to in new and path not in new}
    for path, to in moves.items():
        in_new_names = names.in_file(path)
        merge_moved_file(module, path, to, made.files[path], new[to], result, "the brief", in_new_names)
    for path in sorted({*made.files, *new} - {*moves, *moves.values()}):
        if path not in (BRIEF_FILE, MADE_FILE) and not path.endswith(".mo"):
            was, now = made.files.get(path), new.get(path)
            into_package = partial(_into_package, module, path, names.in_file(path))
            merge_file(module, path, was, now, result, "the brief", into_package, names.in_file(path))
    carry_names(module, names, result)
    _catalogues(module, made, new, changes)
    for path, content in opened.host.migrations(module.name, before, brief, module.changed(changes)).items():
        module.put(changes, path, content)
    for change in opened.host.placements(module.name, before, brief).changes:
        changes.add(*change)
    module.put(changes, MADE_FILE, made._replace(files=new, version=__version__).content())
    _tell_of_rows(opened, before, brief, result)
    return result


def _tell_of_rows(opened: OpenHost, before: Brief, brief: Brief, result: Refreshed) -> None:
    """Tell what becomes of the rows of records, and note by which names the database must be changed."""
    pairs = renamed_records(before.records, brief.records)
    goes_along = bool(pairs) and not result.conflicts and _carries_rows(opened)
    for old, new in pairs:
        clause = ROWS_GO_ALONG if goes_along else opened.host.record_renamed
        clause = clause.format(old=old.name.title, new=new.name.title)
        result.left.append(f"the record {old.name.title} is {new.name.title} now: {clause}")
    result.left.extend(_gone(opened, before, brief))
    if goes_along:
        ways = opened.kit.data.facts.naming.record_identifiers
        names = {_known_as(way, brief, old): _known_as(way, brief, new) for old, new in pairs for way in ways}
        others = [_known_as(way, brief, one) for one in before.records for way in ways]
        held = tuple(one for one in others if one not in names and any(one.startswith(name) for name in names))
        result.renamed = Identifiers(names, held, whole=True)


def _known_as(way: str, brief: Brief, record: Record) -> str:
    return way.format(module=brief.name.snake, record=record.name.snake)


def _carries_rows(opened: OpenHost) -> bool:
    """True where the database is changed here and now, and not by what settling applies later."""
    host = opened.host
    if not opened.kit.data.facts.naming.record_identifiers or host.drops_what_is_gone:
        return False
    try:
        host.need_runtime()
    except HostFailed:
        return False
    return True


def _gone(opened: OpenHost, before: Brief, brief: Brief) -> list[str]:
    """Tell what becomes of the rows and values of records and fields that the brief names no longer."""
    drops = opened.host.drops_what_is_gone
    found = []
    for record in gone_records(before.records, brief.records):
        rows = "its table goes with its rows once that is settled" if drops else "its table stays in the database"
        found.append(f"the record {record.name.title} is no longer in the brief: {rows}")
    for record, field in gone_fields(before.records, brief.records):
        values = "its column goes with its values once that is settled" if drops else "its column stays in the table"
        found.append(f"the field {field} of {record.name.title} is no longer in the brief: {values}")
    return found


def _brief_before(module: ModuleOnDisk, made: Made, brief: Brief) -> Brief:
    content = made.files.get(BRIEF_FILE)
    try:
        return brief_from_toml(content.decode("utf-8"), MADE_FILE) if content is not None else brief
    except (SproutError, UnicodeDecodeError):
        raise Refused(
            "made-broken",
            f"{module.folder}/{MADE_FILE} holds no brief that can be read; nothing was changed.",
            "Take the file back from your version control.",
        ) from None


def _into_package(
    module: ModuleOnDisk, path: str, in_new_names: Callable[[bytes], bytes], was: bytes, now: bytes, changes: ChangeSet
) -> bool:
    """Carry the change of a file into the package that the module has in its place; False where it has none."""

    def read(place: str) -> bytes | None:
        content = module.content(place)
        return None if content is None else in_new_names(content)

    try:
        files = module.opened.host.into_package(module.name, path, "", in_new_names(was), now, read)
    except NotCarried as error:
        raise module.refused(path, error) from None
    for place, after in files.items():
        module.put(changes, place, after)
    return bool(files)


def _catalogues(module: ModuleOnDisk, made: Made, new: dict[str, bytes], changes: ChangeSet) -> None:
    """Compile the catalogues again whose source form changes; take away those of languages that are gone."""
    after = {change.path: change.after for change in changes.changes}
    for path in {*made.files, *new}:
        if not path.endswith(".po"):
            continue
        compiled_path = path.removesuffix(".po") + ".mo"
        place = f"{module.folder}/{path}"
        if place not in after or compiled_path not in {*made.files, *new}:
            continue  # it stays as it is, or the host reads the source form
        source = after[place]
        if source is None:
            module.put(changes, compiled_path, None)
            continue
        try:
            module.put(changes, compiled_path, compiled(source))
        except ValueError:
            continue  # it holds conflict marks, which are listed
