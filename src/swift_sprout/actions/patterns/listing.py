"""The list for ``new --from``: a table in a text file, a module in each row, a word of the pattern in each column."""

from __future__ import annotations

import csv
from collections.abc import Iterator
from pathlib import Path

from ...core.errors import Problem, WrongUse
from ...core.nearest import nearest
from ...core.patterns.pattern import Pattern
from .making import Given

LARGEST_BYTES = 10_000_000
MODULE, INTERNAL, AUTHOR = "module", "internal", "author"


def given_in(path: Path, shown: str, pattern: Pattern) -> list[Given]:
    """Read a list; raises WrongUse that names rows and columns which are wrong.

    shown -- the path as the person named it
    """
    rows = _rows(path, shown)
    head = [cell.strip() for _, cells in rows[:1] for cell in cells]
    known = {MODULE: MODULE, INTERNAL: INTERNAL, AUTHOR: AUTHOR}
    known |= {word.key.lower(): word.key for word in pattern.facts.asked}
    columns = [known.get(cell.lower(), "") for cell in head]
    problems = [
        Problem(f"{shown}:1, column {number}", f"{cell!r} is no word of the pattern", _near(cell, known))
        for number, (cell, column) in enumerate(zip(head, columns, strict=True), 1)
        if not column
    ]
    needed = [MODULE, *(word.key for word in pattern.facts.asked)]
    problems += [Problem(f"{shown}:1", f"there is no column {column!r}") for column in needed if column not in columns]
    problems += [
        Problem(f"{shown}:1", f"the column {column!r} stands there twice")
        for column in dict.fromkeys(columns)
        if column and columns.count(column) > 1
    ]
    if not problems and len(rows) < 2:
        problems.append(Problem(shown, "it has no rows"))
    if not problems:
        problems = list(_bad_rows(rows[1:], columns, needed, shown))
    if problems:
        remedy = f"The first line names the columns: {', '.join([*needed, AUTHOR])}."
        raise WrongUse("list-wrong", f"{shown} cannot be used; nothing was made.", remedy, tuple(problems))
    return [_given(dict(zip(columns, cells, strict=True)), f"{shown}:{line}") for line, cells in rows[1:]]


def _given(row: dict[str, str], place: str) -> Given:
    others = {key: text for key, text in row.items() if key not in (MODULE, INTERNAL, AUTHOR)}
    return Given(row[MODULE], row.get(INTERNAL, ""), (), others, row.get(AUTHOR, ""), place)


def _rows(path: Path, shown: str) -> list[tuple[int, list[str]]]:
    """Return the rows that hold anything, each with its line."""
    try:
        if path.stat().st_size > LARGEST_BYTES:
            raise WrongUse("list-large", f"{shown} is larger than 10 MB.", "Part it into several lists.")
        text = path.read_text("utf-8-sig")
    except OSError as error:
        reason = (error.strerror or str(error)).lower()
        raise WrongUse("list-unreadable", f"--from {shown}: {reason}.", "Name a list as CSV.") from None
    except UnicodeDecodeError:
        raise WrongUse("list-unreadable", f"--from {shown}: it is not UTF-8 text.", "Save it as UTF-8.") from None
    first = text.partition("\n")[0]
    between = max(",;\t", key=first.count)  # what office programs write depends on the country
    reader = csv.reader(text.splitlines(), delimiter=between, strict=True)
    try:
        return [(reader.line_num, [cell.strip() for cell in cells]) for cells in reader if any(map(str.strip, cells))]
    except csv.Error as error:
        sentence = f"{shown}:{reader.line_num}: {error}."
        raise WrongUse("list-wrong", sentence, "Check the quotation marks of that row.") from None


def _bad_rows(
    rows: list[tuple[int, list[str]]], columns: list[str], needed: list[str], shown: str
) -> Iterator[Problem]:
    for line, cells in rows:
        if len(cells) != len(columns):
            yield Problem(f"{shown}:{line}", f"it has {len(cells)} cells, and there are {len(columns)} columns")
            continue
        for column, cell in zip(columns, cells, strict=True):
            if column in needed and not cell:
                yield Problem(f"{shown}:{line}, column {column}", "it is empty", "Add a name.")


def _near(cell: str, known: dict[str, str]) -> str:
    near = nearest(cell.lower(), known)
    return f"Did you mean {known[near]}?" if near else "Take the column out."
