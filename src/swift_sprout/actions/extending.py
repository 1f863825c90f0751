"""``add``: one more part in a module that is there, merged into the files that people have edited since."""

from __future__ import annotations

import fnmatch
from functools import cached_property
from typing import Any, NamedTuple

from .. import __version__
from ..core.brief import BRIEF_FILE, Brief, brief_from_toml, contradictions
from ..core.brieftext import brief_text, table_text
from ..core.changes import ChangeSet
from ..core.errors import Problem, Refused, WrongUse
from ..core.made import MADE_FILE
from ..core.parts.kinds import KINDS, Kind, kind_named
from ..edits.carrying import NotCarried
from ..edits.catalogue import compiled
from .hosting import OpenHost, carried_out
from .making import part_from_line
from .modulefiles import ModuleOnDisk
from .resting import Ground


class Added(NamedTuple):
    """What ``add`` did, or would do.

    already -- True when the module has the part already; left -- files that were left as they are, and why
    """

    module: str
    kind: str
    name: str
    changes: ChangeSet
    already: bool
    left: list[str]
    next_steps: list[str]


def add(opened: OpenHost, kind: str, line: str, to: str, preview: bool) -> Added:
    """Add a part to a module; raises WrongUse or Refused, with nothing changed, where it cannot be done."""
    return carried_out(opened, f"add {kind} to {to}", lambda: _planned(opened, kind, line, to), preview)


def carried_kind(opened: OpenHost, kind: str) -> Kind:
    """Return a kind that modules of this host can carry; raises WrongUse naming the nearest that they can."""
    known = kind_named(kind)
    opened.kit.data.refuse_what_is_not_carried([kind])
    return known


def _planned(opened: OpenHost, kind: str, line: str, to: str) -> Added:
    known = carried_kind(opened, kind)
    part = part_from_line(kind, line)
    module = ModuleOnDisk(opened, to)
    brief = module.brief
    here = brief or opened.host.read_brief(module.name).brief
    there = next((one for one in here.parts(kind) if one.key == part.key), None)
    changes = ChangeSet(f"add {kind} {part.key} to {module.name}")
    if there is not None:
        if brief is not None and there != part:
            raise Refused(
                "part-taken",
                f"{module.name} has the {kind} {part.key} already, in another form; nothing was changed.",
                f"Change it in {module.folder}/{BRIEF_FILE}, then run: swift-sprout refresh {module.name}",
            )
        return Added(module.name, kind, part.key, changes, True, [], [])
    after = here.with_part(kind, part)
    _refuse_contradictions(after, kind, len(after.parts(kind)) - 1)
    ground = Ground(opened)
    ground.refuse_what_is_absent(after, "extended")
    ground.refuse_unseen(after, [one for one in after.placements if one not in here.placements])
    left: list[str] = []
    if brief is not None:
        source = module.brief_source()
        changes.add(
            f"{module.folder}/{BRIEF_FILE}",
            source.content(),
            source.with_text(_with_table(module, source.text, kind, known.data(part))).content(),
        )
        _carry_files(opened, module, changes, here, kind, part, left)
    else:
        _carry_files(opened, module, changes, _needed(here, kind, part), kind, part, left)
        left.append(f"there is no brief: swift-sprout adopt {module.name} writes one")
    for path, content in opened.host.migrations(module.name, here, after, module.changed(changes)).items():
        module.put(changes, path, content)
    for change in opened.host.placements(module.name, here, after).changes:
        changes.add(*change)
    return Added(module.name, kind, part.key, changes, False, left, next_steps(opened, module, [(kind, part)]))


def next_steps(opened: OpenHost, module: ModuleOnDisk, parts: list[tuple[str, Any]]) -> list[str]:
    """Return what is left to do by hand after parts were made."""
    said = opened.kit.data.facts.then
    label = module.name.rpartition(".")[2]
    steps = []
    for kind, part in parts:
        if kind in said:
            steps.append(said[kind].format(label=label, name=getattr(getattr(part, "name", None), "title", part.key)))
    return list(dict.fromkeys(steps))


def _with_table(module: ModuleOnDisk, text: str, kind: str, data: dict[str, Any]) -> str:
    from ..edits.toml import add_table

    try:
        return add_table(text, kind, table_text(kind, data))
    except NotCarried as error:
        raise module.refused(BRIEF_FILE, error) from None


def _refuse_contradictions(brief: Brief, kind: str, index: int) -> None:
    found = [
        Problem(f"{path[0]} {brief.parts(str(path[0]))[int(path[1])].key}", what, remedy)
        for path, what, remedy in contradictions(brief)
    ]
    if found:
        raise WrongUse("part-contradicts", f"The {kind} does not fit the module.", "Fix what is listed.", tuple(found))


def _needed(brief: Brief, kind: str, part: Any) -> Brief:
    """Return of a brief that was read from code just what one more part rests on, so that nothing else is made."""
    resting = {"menu": ("pages", "menu"), "placement": ("blocks", "placements"), "group": ("groups",)}
    kept = {"records", "permissions", "settings", *resting.get(kind, (KINDS[kind][0],))}
    dropped: dict[str, Any] = {name: () for name, _ in KINDS.values() if name not in kept}
    if part is not None and getattr(part, "access", "").startswith("may "):
        dropped.pop("permissions", None)
    return brief._replace(**dropped)


def _carry_files(
    opened: OpenHost, module: ModuleOnDisk, changes: ChangeSet, before: Brief, kind: str, part: Any, left: list[str]
) -> None:
    """Carry the difference between the files of two briefs into those of a module, and keep what was generated."""
    old = _made_before(opened, module, before)
    new = opened.host.generate(module.name, before.with_part(kind, part), (before, old))
    carrying = _Carrying(opened, module, changes, left, part.key, _alone(before, kind, part))
    for path, content in new.items():
        if path != BRIEF_FILE and (old.get(path) != content or carrying.is_unmade_test(path)):
            carrying.one_file(path, old.get(path), content)
    kept = carrying.kept
    _rested_on(opened, module, changes, new, kept)
    _compile_catalogues(module, changes, new)
    if BRIEF_FILE in kept:
        unchanged = kept[BRIEF_FILE] == old[BRIEF_FILE]
        kept[BRIEF_FILE] = new[BRIEF_FILE] if unchanged else _kept_brief(module, kept[BRIEF_FILE], kind, part)
    if module.made is not None:
        module.put(changes, MADE_FILE, module.made._replace(files=kept).content())


class _Carrying:
    """Carries changes of generated files into those of a module, one after the other.

    name  -- the name of the part
    alone -- a brief of just the part that is added: what a test file is made of where the module never had one
    kept  -- what was generated last, by path, as it will be kept
    """

    def __init__(
        self, opened: OpenHost, module: ModuleOnDisk, changes: ChangeSet, left: list[str], name: str, alone: Brief
    ) -> None:
        self.opened, self.module, self.changes, self.left = opened, module, changes, left
        self.name, self.alone = name, alone
        self.kept = dict(module.made.files) if module.made is not None else {}
        tests = opened.kit.data.facts.own_tests
        self.tests_folder = tests.folder
        self.tests_by_hand = any((module.path / name).exists() for name in tests.by_hand)

    def is_unmade_test(self, path: str) -> bool:
        """True for a test file that was never made for the module, and is not there."""
        return self._never_made_test(path) and self.module.content(path) is None

    def one_file(self, path: str, was: bytes | None, content: bytes) -> None:
        """Carry the change of one file, from what it was when it was generated without the part."""
        here = self.module.content(path)
        if here is None and self._into_package(path, was or b"", content):
            return
        if here is None:
            made = self._absent_file(path, was, content)
            if made is None:
                return
            content = made
        self.module.put(
            self.changes, path, content if here is None else _carried(self.module, path, here, was, content)
        )
        if path in self.kept:
            content = _carried_quietly(self.module, path, self.kept[path], was, content)
        self.kept[path] = content

    def _into_package(self, path: str, was: bytes, content: bytes) -> bool:
        """Carry the change of a file into the package that the module has in its place; False where it has none."""
        try:
            files = self.opened.host.into_package(self.module.name, path, self.name, was, content, self.module.content)
        except NotCarried as error:
            raise self.module.refused(path, error) from None
        for place, after in files.items():
            self.module.put(self.changes, place, after)
        if files and path in self.kept:
            self.kept[path] = _carried_quietly(self.module, path, self.kept[path], was, content)
        return bool(files)

    def _absent_file(self, path: str, was: bytes | None, content: bytes) -> bytes | None:
        """Return what a file that is not there begins with; None where it is not made."""
        if self._never_made_test(path):
            if not self.tests_by_hand:
                return self._files_of_part_alone.get(path, content)
            if was != content:
                self.left.append(f"{path} was not made: the module has tests of its own")
            return None
        if was is None:
            return content
        if path in self.kept:
            self.left.append(f"{path} was taken away by hand, and stays away")
            return None
        if not self.opened.host.grows_from_nothing(path):
            return None
        return _carried(self.module, path, b"", was, content)  # the module never had it: just what is new

    def _never_made_test(self, path: str) -> bool:
        return bool(self.tests_folder) and path.startswith(self.tests_folder) and path not in self.kept

    @cached_property
    def _files_of_part_alone(self) -> dict[str, bytes]:
        return self.opened.host.generate(self.module.name, self.alone)


def _kept_brief(module: ModuleOnDisk, content: bytes, kind: str, part: Any) -> bytes:
    """Return the brief from which the module was made last, with the part: what else was changed in it is still due."""
    last = brief_from_toml(content.decode("utf-8"), f"{module.folder}/{MADE_FILE}").with_part(kind, part)
    if contradictions(last):
        raise Refused(
            "refresh-first",
            f"{module.folder}/{BRIEF_FILE} was changed since its files were made, and the {kind} depends on that.",
            f"First run: swift-sprout refresh {module.name}",
        )
    return brief_text(last).encode("utf-8")


def _made_before(opened: OpenHost, module: ModuleOnDisk, brief: Brief) -> dict[str, bytes]:
    """Return the files that the brief makes without the part: those that were kept, where they are of that brief."""
    made = module.made
    if made is not None and not made.adopted and made.version == __version__:
        if made.files.get(BRIEF_FILE) == brief_text(brief).encode("utf-8"):
            return made.files
    return opened.host.generate(module.name, brief)


def _alone(brief: Brief, kind: str, part: Any) -> Brief:
    """Return a brief of one part and what it rests on: all that a test file made for it can know of a hand's work."""
    records = {"records", "permissions"}
    dropped: dict[str, Any] = {name: () for name, _ in KINDS.values() if name not in records}
    alone = brief._replace(**dropped).with_part(kind, part)
    return _needed(brief, kind, part).with_part(kind, part) if contradictions(alone) else alone


def _rested_on(
    opened: OpenHost, module: ModuleOnDisk, changes: ChangeSet, new: dict[str, bytes], kept: dict[str, bytes]
) -> None:
    """Make the files that new files rest on and that the module never had, such as the frame of its pages."""
    made_now = [path.removeprefix(module.folder + "/") for path in changes.made()]
    for pattern, rests in opened.kit.data.facts.made_with.items():
        if not any(fnmatch.fnmatch(path, pattern) for path in made_now):
            continue
        for template in rests:
            path = template.format(label=module.name.rpartition(".")[2])
            if path in new and path not in made_now and module.content(path) is None:
                module.put(changes, path, new[path])
                kept[path] = new[path]


def _carried(module: ModuleOnDisk, path: str, here: bytes, was: bytes | None, content: bytes) -> bytes:
    try:
        return module.opened.host.carry(path, here, was or b"", content)
    except NotCarried as error:
        raise module.refused(path, error) from None


def _carried_quietly(module: ModuleOnDisk, path: str, kept: bytes, was: bytes | None, content: bytes) -> bytes:
    """Carry a change into what was generated last; where that has another form, it stays, and a refresh will tell."""
    try:
        return module.opened.host.carry(path, kept, was or b"", content)
    except NotCarried:
        return kept


def _compile_catalogues(module: ModuleOnDisk, changes: ChangeSet, new: dict[str, bytes]) -> None:
    """Compile every catalogue again from the source form that will stand there."""
    after = {change.path: change.after for change in changes.changes}
    for path in new:
        if not path.endswith(".po"):
            continue
        source = after.get(f"{module.folder}/{path}") or module.content(path)
        if source is None:
            continue
        target = path.removesuffix(".po") + ".mo"
        if target not in new:
            continue  # a host that reads the source form
        try:
            content = compiled(source)
        except ValueError as error:
            raise module.refused(path, NotCarried(0, str(error))) from None
        place = f"{module.folder}/{target}"
        changes.add(place, after.get(place, module.content(target)), content)
