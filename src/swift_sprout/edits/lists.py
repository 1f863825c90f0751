"""Edits of plain lists: one entry a line, comments behind a hash sign."""

from __future__ import annotations


def add_line(text: str, entry: str) -> str:
    """Add an entry; a list that is in order stays in order, and an entry that is there is not added again."""
    lines = text.splitlines(keepends=True)
    newline = "\r\n" if "\r\n" in text else "\n"
    entries = [(number, _entry(line)) for number, line in enumerate(lines) if _entry(line)]
    names = [name for _, name in entries]
    if entry in names:
        return text
    if lines and not lines[-1].endswith("\n"):
        lines[-1] += newline
    at = entries[-1][0] + 1 if entries else len(lines)
    if len(names) > 1 and names == sorted(names, key=str.lower):
        at = next((number for number, name in entries if name.lower() > entry.lower()), at)
    lines.insert(at, entry + newline)
    return "".join(lines)


def _entry(line: str) -> str:
    return line.partition("#")[0].strip()
