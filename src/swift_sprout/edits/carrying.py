"""Carrying a change of generated text into a file that a person has edited since: by syntax where there is one.

``carry`` takes three texts: what stands in the file, and the generated text before and after the change. What a person
wrote stays; what the change brings is put where it belongs.
"""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType

from ..core.lines import plain_lines
from .source import SourceText


class NotCarried(Exception):
    """A change could not be carried into a file: ``line`` of the file (0: unknown) and the reason."""

    def __init__(self, line: int, reason: str) -> None:
        super().__init__(reason)
        self.line = line
        self.reason = reason


#  by the ending of a file: how a change is carried into it; line by line where nothing is said
MERGES: Mapping[str, str] = MappingProxyType(
    {"py": "python", "json": "json", "po": "catalogue", "cfg": "ini", "ini": "ini", "xml": "xml"}
)


def carry(path: str, current: bytes, before: bytes, after: bytes, merges: Mapping[str, str] = MERGES) -> bytes:
    """Return the content of a file with a change carried into it.

    path   -- the file's name, whose ending tells how
    merges -- how by ending: ``catalogue``, ``ini``, ``json``, ``lines``, ``python`` or ``xml``

    Raises NotCarried, naming the line, when the file cannot be parsed or the change meets what a person wrote.
    """
    if current in (before, after) or before == after:
        return after if current == before else current
    ending = path.rpartition(".")[2]
    if ending == "mo":
        return after  # compiled from its source form, which is carried itself
    if b"\0" in current:
        raise NotCarried(0, "it is not text")
    try:
        syntax = merges.get(ending, "lines")
        source = SourceText.python(current) if syntax == "python" else SourceText.plain(current)
        plain = source.text.replace("\r\n", "\n")
        if "\r" in plain:
            raise NotCarried(plain.count("\n", 0, plain.index("\r")) + 1, "its lines end with a carriage return alone")
        carried = _carried(syntax, plain, before.decode("utf-8"), after.decode("utf-8"))
        if carried == plain:
            return current
        return source.with_text(_line_ends(source.text, plain, carried, source.newline)).content()
    except SyntaxError as error:
        raise NotCarried(error.lineno or 0, error.msg or "it does not parse") from None
    except UnicodeEncodeError as error:
        missing = error.object[error.start : error.end]
        raise NotCarried(0, f"its encoding {error.encoding} has no {missing!r}") from None
    except UnicodeDecodeError:
        raise NotCarried(1, "its encoding cannot be told") from None


def grows_from_nothing(path: str, merges: Mapping[str, str] = MERGES) -> bool:
    """True for a syntax in which what is new can be carried into a file that is not there yet."""
    return merges.get(path.rpartition(".")[2]) == "python"


def _carried(syntax: str, current: str, before: str, after: str) -> str:
    if syntax == "python":
        from .pythoncarry import carry_python
        from .pythonproof import prove_carried

        carried = carry_python(current, before, after)
        prove_carried(current, carried, before, after)
        if current.strip():
            return carried
        from .python import without_idle_imports

        return without_idle_imports(carried)  # an import line comes as a whole, for all that the generated file has
    if syntax == "json":
        from .json import carry_json

        return carry_json(current, before, after)
    if syntax == "catalogue":
        from .catalogue import carry_catalogue

        return carry_catalogue(current, after)
    if syntax == "ini":
        from .ini import carry_ini

        return carry_ini(current, before, after)
    if syntax == "xml":
        from .xmldata import carry_data

        data = carry_data(current, before, after)
        if data is not None:
            return data
    merged, conflicts = three_way(current, before, after)
    if conflicts:
        raise NotCarried(conflicts[0], "what was written there meets what would be added")
    return merged


def three_way(
    current: str, before: str, after: str, names: tuple[str, str] = ("here", "generated")
) -> tuple[str, list[int]]:
    """Merge two changes of one text line by line; conflicts stand in the usual marks.

    names -- what the marks call the two sides

    Returns the text, and the lines on which conflicts begin.
    """
    from merge3 import Merge3

    sides = [plain_lines(text) for text in (before, current, after)]
    if any(side and not side[-1].endswith("\n") for side in sides):
        for side in sides:
            if side and not side[-1].endswith("\n"):
                side[-1] += "\n"
    marks = ("<" * 7, "|" * 7, "=" * 7, ">" * 7)
    merge = Merge3(sides[0], sides[1], sides[2])
    merged = list(
        merge.merge_lines(
            name_a=names[0],
            name_b=names[1],
            start_marker=marks[0],
            mid_marker=marks[2],
            end_marker=marks[3],
            reprocess=True,
        )
    )
    text = "".join(merged)
    start = f"{marks[0]} {names[0]}"
    return text, [number for number, line in enumerate(text.split("\n"), 1) if line == start]


def _line_ends(old: str, plain: str, carried: str, newline: str) -> str:
    """Give a carried text the line ends of the file: lines that were there keep theirs, new ones get the usual one."""
    if "\r\n" not in old:
        return carried
    if "\n" not in old.replace("\r\n", ""):
        return carried.replace("\n", "\r\n")
    from difflib import SequenceMatcher

    old_lines, new_lines = plain_lines(old), plain_lines(carried)
    result: list[str] = []
    matcher = SequenceMatcher(None, plain_lines(plain), new_lines, autojunk=False)
    for kind, start, end, new_start, new_end in matcher.get_opcodes():
        if kind == "equal":
            result += old_lines[start:end]
        else:
            result += [line.replace("\n", newline) for line in new_lines[new_start:new_end]]
    return "".join(result)
