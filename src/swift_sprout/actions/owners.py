"""``rename --owner``: another owner's part before a module's name, in the module and elsewhere."""

from __future__ import annotations

import re
from collections.abc import Iterator

from ..core.brief import BRIEF_FILE
from ..core.changes import ChangeSet
from ..core.errors import Refused, WrongUse
from ..core.made import MADE_FILE, Made
from ..core.names import words_of
from ..core.patterns.origin import ORIGIN_FILE, Origin
from ..core.renaming.contents import is_text
from ..core.renaming.occurrences import Occurrence, kind_of
from ..core.renaming.owners import OwnerRenaming, owner_in
from ..core.renaming.plan import RenamePlan
from .hosting import OpenHost
from .modulefiles import ModuleOnDisk
from .naming import family_of, files_of, is_in
from .renaming import Renamed, start_as_before

_OWNER_LINE = re.compile(r"^(\s*owner\s*=\s*)([\"'])(.*?)\2", re.MULTILINE)


def rename_owner(opened: OpenHost, name: str, owner: str, preview: bool) -> Renamed:
    """Give a module another owner's part; its own name, its data and its addresses stay.

    Raises WrongUse for an owner that cannot be, Refused where the module has none that its files tell, and where the
    host does not start any more: then everything is as before.
    """
    words, foreign = words_of(owner)
    if not words or foreign or words[0][0].isdigit():
        raise WrongUse(
            "owner-unusable",
            f"{owner!r} is no name of an owner.",
            'Give Latin letters first, such as "harbour-office".',
        )
    if preview:
        return _planned(opened, name, words)
    with opened.writing(f"rename {name} --owner {owner}"):
        done = _planned(opened, name, words)
        before = opened.host.start_up()
        number = opened.journal.apply(done.changes)
        try:
            start_as_before(opened, before)
        except BaseException:
            opened.journal.undo(number)
            raise
        module = ModuleOnDisk(opened, name)
        done.left = list(_named(opened, module, _renaming(opened, module, words, done.before.partition("/")[0])))
    return done


def _renaming(opened: OpenHost, module: ModuleOnDisk, words: tuple[str, ...], old: str = "") -> OwnerRenaming:
    """Return the renaming of a module's owner; ``old`` is the owner's name in kebab case, where that is known."""
    family = family_of(module)
    before = tuple(old.split("-")) if old else module.brief.name.owner if module.brief else ()
    if not before:
        texts = (file.read() for file in files_of(opened, module.folder) if is_in(file.path, module.folder))
        before = owner_in((one.decode("utf-8", "replace") for one in texts if is_text(one)), family)
    if not before:
        raise Refused(
            "no-owner",
            f"Nothing in {module.folder} says who owns {module.name}; nothing was changed.",
            f'Add owner = "…" to its {BRIEF_FILE} and run: swift-sprout refresh {module.name}',
        )
    if before == words:
        raise WrongUse("owner-same", f"{'-'.join(words)} owns {module.name} already.", "Give another owner.")
    return OwnerRenaming(family, before, words)


def _planned(opened: OpenHost, name: str, words: tuple[str, ...]) -> Renamed:
    module = ModuleOnDisk(opened, name)
    renaming = _renaming(opened, module, words)
    title = f"{'-'.join(renaming.old)}/{module.name}", f"{'-'.join(words)}/{module.name}"
    changes = ChangeSet(f"rename {title[0]} to {title[1]}")
    found: list[Occurrence] = []
    for file in files_of(opened, module.folder):
        content = file.read()
        if is_in(file.path, module.folder) and file.path.endswith(f"/{MADE_FILE}"):
            made = Made.read(content, file.path)
            files = {path: _changed(path, held, renaming) for path, held in made.files.items()}
            changes.add(file.path, content, made._replace(files=files).content())
        elif file.path.endswith(f"/{ORIGIN_FILE}"):
            origin = Origin.read(content, file.path)
            changes.add(
                file.path,
                content,
                origin.renamed(
                    family_of(module).title, family_of(module).snake, lambda path: path,
                    lambda path, held: _changed(path, held, renaming),
                ).content(),
            )  # fmt: skip
        elif renaming.may_be_in(content) and is_text(content):
            changes.add(file.path, content, _changed(file.path, content, renaming))
            found += _occurrences(file.path, content, renaming)
    return Renamed(*title, RenamePlan({}, tuple(found), ()), changes)


def _named(opened: OpenHost, module: ModuleOnDisk, renaming: OwnerRenaming) -> Iterator[Occurrence]:
    """Search the files once more: yield where the old owner stands before the module's name."""
    for file in files_of(opened, module.folder):
        content = file.read()
        if not file.path.endswith((f"/{MADE_FILE}", f"/{ORIGIN_FILE}")) and is_text(content):
            yield from _occurrences(file.path, content, renaming)


def _occurrences(path: str, content: bytes, renaming: OwnerRenaming) -> Iterator[Occurrence]:
    text = content.decode("utf-8", "surrogateescape")
    for one in renaming.find(text):
        line = text.count("\n", 0, one.start) + 1
        kind = kind_of(path, text.splitlines()[line - 1])
        yield Occurrence(path, line, one.start, one.before, one.after, kind, False)


def _changed(path: str, content: bytes, renaming: OwnerRenaming) -> bytes:
    """Return a file with the owner's new name in it; a brief says it under a key."""
    if not is_text(content):
        return content
    text = renaming.apply(content.decode("utf-8", "surrogateescape"))
    if path.rpartition("/")[2] == BRIEF_FILE:
        text = _OWNER_LINE.sub(rf"\g<1>\g<2>{'-'.join(renaming.new)}\g<2>", text, count=1)
    return text.encode("utf-8", "surrogateescape")
