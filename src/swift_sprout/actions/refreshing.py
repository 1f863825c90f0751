"""``refresh``: a module brought up to its changed brief, kit or tool by three-way merge."""

from __future__ import annotations

from typing import NamedTuple

from .. import __version__
from ..core.brief import BRIEF_FILE, Brief, brief_from_toml
from ..core.changes import ChangeSet
from ..core.errors import Problem, Refused, SproutError, WrongUse
from ..core.made import MADE_FILE, Made
from ..edits.carrying import NotCarried, three_way
from ..edits.catalogue import compiled
from ..edits.source import SourceText
from .hosting import OpenHost, carried_out
from .modulefiles import ModuleOnDisk


class Refreshed(NamedTuple):
    """What ``refresh`` did, or would do.

    conflicts -- places of files where marks stand; left -- files that were left as they are, and why
    """

    module: str
    changes: ChangeSet
    conflicts: list[str]
    left: list[str]


def refresh(opened: OpenHost, name: str, preview: bool) -> Refreshed:
    """Bring a module up to its brief; raises WrongUse for a brief that is wrong, and Refused where it has no ground."""
    return carried_out(opened, f"refresh {name}", lambda: _planned(opened, name), preview)


def _planned(opened: OpenHost, name: str) -> Refreshed:
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
    _refuse_marks(module, made)
    before = _brief_before(module, made, brief)
    new = opened.host.generate(module.name, brief)
    if made.adopted:
        never = set(opened.host.generate(module.name, before)) - set(made.files)
        new = {path: content for path, content in new.items() if path not in never}
    changes = ChangeSet(f"refresh {module.name}")
    result = Refreshed(module.name, changes, [], [])
    for path in sorted({*made.files, *new}):
        if path not in (BRIEF_FILE, MADE_FILE) and not path.endswith(".mo"):
            _one_file(module, path, made.files.get(path), new.get(path), result)
    _catalogues(module, made, new, changes)
    for path, content in opened.host.migrations(module.name, before, brief, module.changed(changes)).items():
        module.put(changes, path, content)
    for change in opened.host.placements(module.name, before, brief).changes:
        changes.add(*change)
    module.put(changes, MADE_FILE, made._replace(files=new, version=__version__).content())
    return result


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


def _refuse_marks(module: ModuleOnDisk, made: Made) -> None:
    """A file with conflict marks must be mended first: another merge would bury them."""
    problems = []
    for path in made.files:
        content = module.content(path)
        if content is not None and b"\n<<<<<<< " in b"\n" + content:
            line = (b"\n" + content).count(b"\n", 0, (b"\n" + content).index(b"\n<<<<<<< ") + 1)
            problems.append(Problem(f"{module.folder}/{path}:{line}", "conflict marks stand there", "Choose a side."))
    if problems:
        raise Refused(
            "conflicts-left",
            f"{module.name} has conflicts of an earlier refresh; nothing was changed.",
            "Fix them first.",
            tuple(problems),
        )


def _into_package(module: ModuleOnDisk, path: str, was: bytes, now: bytes, result: Refreshed) -> bool:
    """Carry the change of a file into the package that the module has in its place; False where it has none."""
    try:
        files = module.opened.host.into_package(module.name, path, "", was, now, module.content)
    except NotCarried as error:
        raise module.refused(path, error) from None
    for place, after in files.items():
        module.put(result.changes, place, after)
    return bool(files)


def _one_file(module: ModuleOnDisk, path: str, was: bytes | None, now: bytes | None, result: Refreshed) -> None:
    if was == now:
        return
    here = module.content(path)
    if now is None:
        if here is not None and here == was:
            module.put(result.changes, path, None)
        elif here is not None:
            result.left.append(f"{path} is no longer made, but was changed by hand, and stays")
        return
    if here is None:
        if was is None:
            module.put(result.changes, path, now)
        elif not _into_package(module, path, was, now, result):
            result.left.append(f"{path} was taken away by hand, and stays away")
        return
    if here in (was, now):
        module.put(result.changes, path, now)
        return
    merged, conflicts = _merged(module, path, here, was or b"", now)
    module.put(result.changes, path, merged)
    result.conflicts.extend(f"{module.folder}/{path}:{line}" for line in conflicts)


def _merged(module: ModuleOnDisk, path: str, here: bytes, was: bytes, now: bytes) -> tuple[bytes, list[int]]:
    """Merge by syntax where that works without a conflict, else line by line with marks."""
    try:
        return module.opened.host.carry(path, here, was, now), []
    except NotCarried:
        pass
    try:
        source = SourceText.of(path, here)
        newline = source.newline
        text, conflicts = three_way(
            source.text.replace("\r\n", "\n"), was.decode("utf-8"), now.decode("utf-8"), ("yours", "from the brief")
        )
        return source.with_text(text.replace("\n", newline) if newline != "\n" else text).content(), conflicts
    except (UnicodeError, SyntaxError):
        return here, [1]


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
