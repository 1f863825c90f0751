"""``pattern where``: the line of a pattern that made a line of a module."""

from __future__ import annotations

import difflib
from pathlib import Path

from ...core.errors import Refused, WrongUse
from ...core.patterns.origin import Origin
from ...core.patterns.pattern import Filled, Pattern
from ...core.patterns.results import Located
from ...core.patterns.words import Value, Word
from ..hosting import OpenHost
from .keeping import origin_of
from .store import read_pattern, with_catalogues


def where(opened: OpenHost, place: str) -> Located:
    """Return what made a line.

    place -- as FILE:LINE

    Raises WrongUse for a place that is none, or that no pattern made.
    """
    file, _, number = place.rpartition(":")
    if not file or not number.isdigit():
        raise WrongUse("place-unclear", f"{place!r} is not a file and a line.", "Write it as FILE:LINE.")
    root = opened.host.root
    path = _below(root, file)
    content = (root / path).read_bytes().decode("utf-8", "replace").splitlines()
    line = int(number)
    if not 1 <= line <= len(content):
        raise WrongUse(
            "line-absent", f"{path} has no line {line}; its last is {len(content)}.", "Name one of its lines."
        )
    origin, pattern = _made_by(opened, path)
    filled = files_now(pattern, origin, opened)
    if path not in filled:
        raise WrongUse("not-of-pattern", f"{path} was not made by the pattern {pattern.name}.", "Name another file.")
    return _line_of(pattern, path, line, content, filled[path])


def values_now(pattern: Pattern, origin: Origin, given: dict[Word, Value] | None = None) -> dict[Word, Value]:
    """Return the values that a module has for the pattern's words; raises Refused for words that it has none for."""
    values: dict[Word, Value] = {}
    lacking = []
    for word in pattern.facts.words:
        value = (given or {}).get(word) or origin.value(word)
        if value is None:
            lacking.append(word.key)
        else:
            values[word] = value
    if lacking:
        raise Refused(
            "word-missing",
            f"The pattern {pattern.name} has words since that the module has no name for: {', '.join(lacking)}.",
            f'Add --word "{lacking[0]}=NAME".',
        )
    return values


def files_now(
    pattern: Pattern, origin: Origin, opened: OpenHost, values: dict[Word, Value] | None = None
) -> dict[str, Filled]:
    """Return the files of a module as the pattern would make them now, by their paths in this host."""
    chosen = values or values_now(pattern, origin)
    joined = "-" if opened.kit.data.facts.naming.spelling == "kebab" else "_"
    made = with_catalogues(pattern.filled(pattern.filling(chosen, joined), pattern.facts.variant(origin.variant)))
    return {pattern.facts.moved(path, origin.place): one for path, one in made.items()}


def _made_by(opened: OpenHost, path: str) -> tuple[Origin, Pattern]:
    for module in opened.host.modules():
        origin = origin_of(opened, module.folder)
        if origin is not None and (path in origin.files or path.startswith(f"{module.folder}/")):
            return origin, read_pattern(opened, origin.pattern)
    raise WrongUse("not-of-pattern", f"No pattern of this host made {path}.", "See: swift-sprout pattern list")


def _below(root: Path, file: str) -> str:
    """Return a file's path below a root; it may be told from there, or from the working folder."""
    for path in (Path(file).expanduser(), root / file):
        if path.is_file() and path.resolve().is_relative_to(root):
            return path.resolve().relative_to(root).as_posix()
    raise WrongUse("file-absent", f"{file}: there is no such file in the host.", "Name a file of a module.")


def _line_of(pattern: Pattern, path: str, line: int, content: list[str], filled: Filled) -> Located:
    made = filled.content.decode("utf-8", "replace").splitlines()
    for tag, start, end, begins, _ in difflib.SequenceMatcher(None, content, made, autojunk=False).get_opcodes():
        if start <= line - 1 < end and tag == "equal":
            number = begins + line - start
            texts = pattern.files[filled.made_of].decode("utf-8", "replace").splitlines()
            return Located(path, line, pattern.place(filled.made_of), number, texts[number - 1])
    return Located(path, line, pattern.place(filled.made_of), 0, content[line - 1])
