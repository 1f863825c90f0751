"""The patterns that a project keeps, in ``sprout-patterns/NAME``: a file of facts, and files with marks.

Every file below ``files`` carries ``.pattern`` behind its name, so that no tool of the project takes a text with marks
for a source. Nothing of a pattern is run: texts are filled in, and that is all.
"""

from __future__ import annotations

import os
import re
from collections.abc import Iterator, Mapping
from pathlib import Path, PurePosixPath
from typing import NoReturn

from ...core.errors import Refused, SproutError, WrongUse
from ...core.nearest import did_you_mean
from ...core.patterns import FOLDER
from ...core.patterns.facts import FACTS_FILE, Facts
from ...core.patterns.marks import MARK
from ...core.patterns.pattern import ENDING, FILES, Filled, Pattern
from ...edits.catalogue import compiled
from ..hosting import OpenHost

NAME = re.compile(r"[a-z][a-z0-9]*(?:-[a-z0-9]+)*")
LONGEST_NAME = 60
LARGEST_BYTES = 64_000_000


def with_catalogues(files: Mapping[str, Filled]) -> dict[str, Filled]:
    """Return the files of a module with the compiled catalogues made from their sources.

    Raises Refused for a source that cannot be compiled.
    """
    return {
        path: one._replace(content=_compiled(path, files)) if is_compiled(path, files) else one
        for path, one in files.items()
    }


def _compiled(path: str, files: Mapping[str, Filled]) -> bytes:
    source = files[f"{path.removesuffix('.mo')}.po"]
    try:
        return compiled(source.content)
    except ValueError as error:
        sentence = f"{source.made_of}{ENDING} of the pattern is no catalogue: {error}; nothing was made."
        raise Refused("pattern-catalogue", sentence, "Fix that file of the pattern.") from None


def is_compiled(path: str, files: Mapping[str, object]) -> bool:
    """True for a compiled catalogue whose source lies beside it: it is made from that."""
    return path.endswith(".mo") and path.removesuffix(".mo") + ".po" in files


def checked_name(name: str) -> str:
    """Return the name of a pattern; raises WrongUse for one that is no plain name of a folder."""
    if not NAME.fullmatch(name) or len(name) > LONGEST_NAME:
        raise WrongUse(
            "pattern-name",
            f"A pattern cannot be named {name!r}.",
            "Use small letters, digits and single hyphens, such as record-with-pages.",
        )
    return name


def names(root: Path) -> list[str]:
    """Return the names of the patterns of a host."""
    folder = root / FOLDER
    if not folder.is_dir() or folder.is_symlink():
        return []
    return sorted(entry.name for entry in os.scandir(folder) if (Path(entry.path) / FACTS_FILE).is_file())


def read_pattern(opened: OpenHost, name: str) -> Pattern:
    """Read a pattern of a host; raises WrongUse for one that is not there or is wrong, and Refused for links in it."""
    root = opened.host.root
    known = names(root)
    if name not in known:
        remedy = (
            did_you_mean(name, known) if known else "Take one from a module: swift-sprout pattern take MODULE --as NAME"
        )
        raise WrongUse("pattern-unknown", f"This host has no pattern {name!r}.", remedy)
    folder = root / FOLDER / name
    place = f"{FOLDER}/{name}/{FACTS_FILE}"
    for path in (folder, folder / FACTS_FILE, folder / FILES):
        if path.is_symlink():
            _refuse_link(path, root)
    facts = Facts.read((folder / FACTS_FILE).read_bytes(), place)
    files = {}
    room = LARGEST_BYTES
    for path in _files(folder / FILES):
        room -= path.stat().st_size
        if room < 0:
            sentence = f"{FOLDER}/{name} holds more than {LARGEST_BYTES // 1_000_000} MB; nothing was changed."
            raise Refused("pattern-large", sentence, "Take out what is no part of a module.")
        relative = path.relative_to(folder / FILES).as_posix()
        if not relative.endswith(ENDING):
            sentence = f"{FOLDER}/{name}/{FILES}/{relative} does not end in {ENDING}; nothing was changed."
            raise Refused("pattern-file", sentence, f"Name it {PurePosixPath(relative).name}{ENDING}.")
        files[relative.removesuffix(ENDING)] = path.read_bytes()
    if not files:
        raise WrongUse("pattern-empty", f"The pattern {name} has no files.", "Take it anew.")
    return Pattern(name, facts, files, joined_after(opened, MARK.pattern))


def joined_after(opened: OpenHost, name: str) -> re.Pattern[str] | None:
    """Return what a text ends with where the host joins the words of the next name; ``name`` matches a name in it."""
    patterns = [one.replace("{mark}", name) for one in opened.kit.data.facts.naming.joined_after]
    return re.compile(f"(?:{'|'.join(patterns)})$") if patterns else None


def readable_patterns(opened: OpenHost) -> Iterator[tuple[str, Pattern | SproutError]]:
    """Yield every pattern of a host, or what is wrong with it."""
    for name in names(opened.host.root):
        try:
            yield name, read_pattern(opened, name)
        except SproutError as error:
            yield name, error


def _refuse_link(path: Path, root: Path) -> NoReturn:
    sentence = f"{path.relative_to(root)} is a link or no plain file; nothing was changed."
    raise Refused("not-a-file", sentence, "A pattern holds plain files alone: put the file itself there.")


def _files(folder: Path) -> Iterator[Path]:
    for where, folders, found in os.walk(folder):
        folders.sort()
        for one in [*folders, *sorted(found)]:
            path = Path(where) / one
            if path.is_symlink() or not (path.is_file() or path.is_dir()):
                _refuse_link(path, folder.parent.parent.parent)
        yield from (Path(where) / one for one in sorted(found))
