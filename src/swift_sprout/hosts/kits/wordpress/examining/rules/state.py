"""Whether the module is on, and whether tables, roles and options in the database are those of its files."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from ......core.nearest import near_text
from ...reading.modules import FOLDER
from ...reading.parts import written_brief
from ...reading.tables import created_tables, tables_in

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination


def statements(exam: Examination) -> Iterator[Finding]:
    """Statements for the host's own function that it cannot read: it is strict about their spelling."""
    if not any(True for _ in exam.calls("dbDelta")):
        return
    for file in exam.module.loaded_files:
        text = file.text
        if "CREATE TABLE" not in text.upper():
            continue
        found = re.search(r"^.*PRIMARY KEY ?\(.*$", text, re.MULTILINE)
        if found:
            yield exam.find("installed.primary-key", file.path, text.count("\n", 0, found.start()) + 1)
        yield from _unknown_types(exam, file.path, text)
        yield from _keys_of_absent_columns(exam, file.path, text)
        found = re.search(r"CREATE TABLE IF NOT EXISTS", text)
        if found and not re.search(r"wpdb->query\(", text):
            yield exam.find("installed.if-not-exists", file.path, text.count("\n", 0, found.start()) + 1)


#  the types of columns that MySQL 8.0 and MariaDB 10 know
_TYPES = frozenset(
    {"tinyint", "smallint", "mediumint", "int", "integer", "bigint", "decimal", "dec", "numeric", "fixed", "float"}
    | {"double", "real", "bit", "bool", "boolean", "serial", "date", "time", "datetime", "timestamp", "year", "char"}
    | {"varchar", "nchar", "nvarchar", "binary", "varbinary", "tinyblob", "blob", "mediumblob", "longblob", "tinytext"}
    | {"text", "mediumtext", "longtext", "enum", "set", "json", "uuid", "inet4", "inet6", "geometry", "point"}
    | {"linestring", "polygon", "multipoint", "multilinestring", "multipolygon", "geometrycollection", "character"}
)


def _unknown_types(exam: Examination, path: Path, text: str) -> Iterator[Finding]:
    """Yield the columns of a statement whose type no database of the host knows, and that is nearly one."""
    for statement in re.finditer(r"CREATE TABLE[^(]*\(\s*\n(.*?)\n\s*\)", text, re.DOTALL | re.IGNORECASE):
        for column in re.finditer(r"^\s*`?(\w+)`?\s+([A-Za-z]\w*)\b(?=[\s(,])", statement.group(1), re.MULTILINE):
            name, said = column.group(1), column.group(2).lower()
            if name.upper() in _KEYS or said in _TYPES:
                continue
            near = near_text(said, _TYPES)
            if near:
                line = text.count("\n", 0, statement.start(1) + column.start(2)) + 1
                yield exam.find("installed.column-type-unknown", path, line, column=name, type=said, near=near)


_KEY = re.compile(r"^\s*(?:PRIMARY |UNIQUE )?(?:KEY|INDEX)\b[^(\n]*\(([^)\n]*)\)", re.MULTILINE | re.IGNORECASE)


def _keys_of_absent_columns(exam: Examination, path: Path, text: str) -> Iterator[Finding]:
    """Yield the keys of a statement on columns that it does not make."""
    for statement in re.finditer(r"CREATE TABLE[^(]*\(\s*\n(.*?)\n\s*\)", text, re.DOTALL | re.IGNORECASE):
        first = [re.match(r"\s*`?(\w+)`?", line) for line in statement.group(1).splitlines()]
        columns = {one.group(1).lower() for one in first if one is not None and one.group(1).upper() not in _KEYS}
        for key in re.finditer(
            r"^\s*(?:PRIMARY |UNIQUE )?(?:KEY|INDEX)\b[^(\n]*\(([^)\n]*)\)", statement.group(1), re.M | re.I
        ):
            for said in re.findall(r"`?(\w+)`?(?:\(\d+\))?\s*(?:,|$)", re.sub(r"\(\d+\)?", "", key.group(1))):
                if said.lower() not in columns and "$" not in statement.group(1):
                    line = text.count("\n", 0, statement.start(1) + key.start(1)) + 1
                    near = near_text(said, columns)
                    yield exam.find("installed.key-column-unknown", path, line, column=said, near=near)


#  words that begin a line of such a statement that is no column
_KEYS = (
    "PRIMARY",
    "KEY",
    "UNIQUE",
    "INDEX",
    "FULLTEXT",
    "SPATIAL",
    "CONSTRAINT",
    "FOREIGN",
    "CHECK",
    "REFERENCES",
    "ON",
)


def enabled(exam: Examination) -> Iterator[Finding]:
    """Modules that are off, and names in the database for which there is no file any more."""
    module = exam.module
    if exam.asked is None or exam.view.state is None or module.sort == "theme":
        return
    active = exam.view.state["active"]
    if module.main is None:
        gone = next((key for key in active if key.startswith(f"{module.name}/")), None)
        if gone is not None and not (exam.view.root / FOLDER / gone).exists():
            yield exam.find("found.main-gone", exam.view.root / FOLDER / gone, 0, key=gone)
        return
    if module.key not in active:
        folder = f"{module.name}/"
        old = next((key for key in active if key.startswith(folder) and not module.single), None)
        if old is not None:
            yield exam.find("enabled.main-file-renamed", module.main, 0, old=old, new=module.key)
        else:
            yield exam.find("enabled.off", module.main)
        return
    told = (exam.answers.get("modules") or {}).get("found", {}).get(module.key)
    if told is not None and told["refused"]:
        yield exam.find("enabled.refused", module.main, 0, reason=told["refused"])


def installed_anew(exam: Examination) -> Iterator[Finding]:
    """Columns that the tables of this site have and the code names, and that are lacking on a new site."""
    for made in exam.answers.get("anew") or () if exam.loaded else ():
        for column in made["lacks"] if exam.holds(made["file"]) else ():
            word = re.compile(rb"(?<![\w-])" + re.escape(column.encode()) + rb"(?![\w-])")
            if any(word.search(held) for held in exam.module.contents.values()):
                yield exam.find(
                    "installed.column-not-anew", made["file"], made["line"], table=made["table"], column=column
                )


def tables(exam: Examination) -> Iterator[Finding]:
    """Tables that are absent, and columns that are other than the files say."""
    there = exam.answers.get("tables")
    if not exam.loaded or exam.module.main is None or there is None:
        return
    shape = (exam.answers.get("shapes") or {}).get(exam.module.name)
    prefix = exam.answers.get("host", {}).get("prefix", "")
    if shape is None:
        for name in created_tables(exam.module):
            if name not in there:
                file = _made_in(exam, name) or _installer(exam)
                yield exam.find("installed.table-absent", file, 0, table=prefix + name)
        return
    if shape["failed"]:
        yield exam.find("installed.tables-unknown", _installer(exam), 0, reason=shape["failed"])
        return
    for table in shape["tables"]:
        if table[len(prefix) :] not in there:
            yield exam.find("installed.table-absent", _of_table(exam, table) or _installer(exam), 0, table=table)
    for change in shape["changes"]:
        added = re.match(r"Added column (\S+)\.(\S+)", change)
        changed = re.match(r"Changed type of (\S+)\.(\S+) from (.+) to (.+)", change)
        if added:
            yield exam.find(
                "installed.column-absent",
                _of_table(exam, added.group(1)) or _installer(exam),
                0,
                table=added.group(1),
                column=added.group(2),
            )
        elif changed:
            table, column, was, now = changed.groups()
            file = _of_table(exam, table) or _installer(exam)
            yield exam.find("installed.column-type", file, 0, table=table, column=column, was=was, now=now)


def _made_in(exam: Examination, table: str) -> Path | None:
    """Return the file whose statement makes a table; None when none does."""
    return next((path for path, content in exam.module.contents.items() if table in tables_in(content)), None)


def _installer(exam: Examination) -> Path | str:
    """Return the file of the class that installs, or the main file where there is none."""
    holder = exam.module.classes.get(f"{exam.module.namespace}\\install".lower())
    return holder[1].path if holder is not None else exam.module.main or ""


def _of_table(exam: Examination, table: str) -> Path | None:
    """Return the file of the record whose table it is; None when that is not known."""
    for held, file in exam.module.classes.values():
        name = held.constants.get("NAME")
        if isinstance(name, str) and name and table.endswith(f"_{name}"):
            return file.path
    return None


def rights(exam: Examination) -> Iterator[Finding]:
    """Roles and capabilities that the files give and the database has not."""
    wrong = list(_wrong_rights(exam)) if exam.loaded else []
    installer = exam.module.classes.get(f"{exam.module.namespace}\\install".lower()) if wrong else None
    if installer is None:
        return
    line = installer[0].methods["activate"].line if "activate" in installer[0].methods else 1
    for code, values in wrong:
        yield exam.find(code, installer[1].path, line, **values)


def _wrong_rights(exam: Examination) -> Iterator[tuple[str, dict[str, str]]]:
    """Yield the causes with what their sentences name."""
    brief = written_brief(exam.module)
    roles = exam.answers.get("roles") or {}
    if brief is None or not roles:
        return
    from ...composing.shared import capabilities, role_name
    from ...composing.shared import roles as wanted_roles

    for key, may in wanted_roles(brief).items():
        role = role_name(brief, key)
        if role not in roles:
            yield "installed.role-absent", {"role": role}
            continue
        lacks = [name for name in may if name not in roles[role]["holds"]]
        more = [name for name in capabilities(brief) if name in roles[role]["holds"] and name not in may]
        if lacks:
            yield "installed.capability-absent", {"role": role, "capabilities": ", ".join(lacks)}
        if more:
            yield "installed.capability-more", {"role": role, "capabilities": ", ".join(more)}
    lacks = [name for name in capabilities(brief) if name not in (roles.get("administrator") or {"holds": []})["holds"]]
    if lacks and "administrator" in roles:
        yield "installed.capability-absent", {"role": "administrator", "capabilities": ", ".join(lacks)}
