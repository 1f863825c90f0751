"""What the module's code asks of the host by name, and the running host does not have."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import TYPE_CHECKING

from ......core.nearest import near_text, said_near
from ...reading.syntax import arguments, array_items, line_of, literal, members_asked, parsed, text_of

if TYPE_CHECKING:
    from tree_sitter import Node

    from ......core.findings import Finding
    from ...reading.phpfile import PhpFile
    from ..examination import Examination

#  how the names of the host's own functions begin that nobody else uses
_HOSTS_NAMES = ("wp_", "esc_", "sanitize_")
_ASIDE = {"vendor", "tests", "test", "node_modules", "lib", "libs", "third-party"}
#  methods of the database object that take columns, and which of their arguments hold them (the host's reference, 6.1)
_WRITES = {"insert": (1,), "replace": (1,), "update": (1, 2), "delete": (1,)}


_WRITING = re.compile(rb"\$wpdb->(?:insert|replace|update|delete)\s*\(")
_WORD = re.compile(rb"[a-z][a-z0-9_]+")


def functions(exam: Examination) -> Iterator[Finding]:
    """Functions that are called and that neither the host nor any module has."""
    every: dict[str, str] = exam.answers.get("functions_absent") or {}
    #  others may be of a module that need not be there, or words before a parenthesis in a text
    absent = {name: near for name, near in every.items() if near or name.startswith(_HOSTS_NAMES)}
    if not absent or not exam.loaded:
        return
    told: set[str] = set()
    for file in _own_files(exam, [name.encode() for name in absent]):
        for name, line in (*file.called.items(), *file.called_maybe.items()):
            near = absent.get(name)
            if near is None or name in told:
                continue
            maybe = name not in file.called or "version_compare" in file.text
            if not near and (maybe or file not in exam.module.reached_files):
                continue
            told.add(name)
            said = said_near(near)
            yield exam.find("served.function-unknown", file.path, line, name=name, near=said)


def database(exam: Examination) -> Iterator[Finding]:
    """Methods and properties that the host's database object does not have."""
    absent: dict[str, str] = exam.answers.get("database_absent") or {}
    for name, near in absent.items() if exam.loaded else ():
        behind = r"\s*\(" if name.endswith("()") else r"\b(?!\s*\()"
        word = re.compile(rf"\$wpdb->{re.escape(name.removesuffix('()'))}{behind}")
        for file in _own_files(exam, [name.removesuffix("()").encode()]):
            found = word.search(file.text)
            if found is not None:
                line = file.text.count("\n", 0, found.start()) + 1
                said = said_near(near)
                yield exam.find("served.database-member", file.path, line, name=name, near=said)
                break


def columns(exam: Examination) -> Iterator[Finding]:
    """Columns that are written into tables which do not have them."""
    tables: dict[str, list[str]] = exam.answers.get("columns") or {}
    writing = [path for path, content in exam.module.contents.items() if _WRITING.search(content)]
    if not tables or not writing or not exam.loaded:
        return
    words = {word for content in exam.module.contents.values() for word in _WORD.findall(content)}
    mine = [name for name in tables if name.encode() in words]
    for file in exam.module.reached_files if mine else ():
        if file.path not in writing:
            continue
        for node in members_asked(parsed(file.content).root_node):
            positions = _WRITES.get(text_of(node.child_by_field_name("name")), ())
            if node.type != "member_call_expression" or text_of(node.child_by_field_name("object")) != "$wpdb":
                continue
            yield from _written(exam, file, node, positions, tables, mine)


def _written(
    exam: Examination,
    file: PhpFile,
    node: Node,
    positions: tuple[int, ...],
    tables: dict[str, list[str]],
    mine: list[str],
) -> Iterator[Finding]:
    given = arguments(node)
    table = text_of(given[0]) if given else ""
    if not given or re.fullmatch(r"\$wpdb->\w+", table):
        return  # one of the host's own
    named = [name for name in tables if re.search(rf"(?<![a-z0-9_]){name}\b", table)] or mine
    known = {column for name in named for column in tables[name]}
    for position in positions:
        for key, _ in array_items(given[position]) if position < len(given) else ():
            column = literal(key) if key is not None else None
            if isinstance(column, str) and column not in known:
                values = {"column": column, "table": " or ".join(named), "near": near_text(column, known)}
                yield exam.find("installed.column-unknown", file.path, line_of(key or node), **values)


def _own_files(exam: Examination, words: list[bytes]) -> list[PhpFile]:
    """Return the module's files that hold one of some words, without its tests and what it brings from others."""
    folder = exam.module.folder
    own = [
        path
        for path, content in exam.module.contents.items()
        if not _ASIDE & set(path.relative_to(folder).parts[:-1]) and any(word in content for word in words)
    ]
    return [exam.module.file(path) for path in own]
