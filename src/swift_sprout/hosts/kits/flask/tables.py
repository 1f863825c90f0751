"""Whether the running application's databases have what its records are kept in."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ....core.findings import of_another
from ....core.ladder import Rung, State
from ....core.plurals import number_of
from .asking import said
from .settling import makes_tables

if TYPE_CHECKING:
    from ....core.findings import Finding
    from .host import FlaskHost

DATABASES = "mapped"  # the step in which the databases are asked
Answers = Mapping[str, Any]
Seen = dict[Rung, tuple[State, str]]


def tables(host: FlaskHost, name: str, answers: Answers, seen: Seen) -> Iterator[Finding]:
    """Yield what is absent of a module's tables; ``seen`` is told of those that are there."""
    yield from _declared(host, name, answers, seen)
    mine = [one for one in answers.get(DATABASES) or () if one["module"] == name]
    if mine:
        yield from mapped(host, name, mine)
        seen[Rung.INSTALLED] = State.PASS, f"tables {', '.join(one['table'] for one in mine)}"


def _declared(host: FlaskHost, name: str, answers: Answers, seen: Seen) -> Iterator[Finding]:
    """Tables of the module's own ``schema.sql``."""
    path = host.place(name).folder / "schema.sql"
    if not path.is_file():
        return
    text = path.read_text("utf-8", "replace")
    if answers.get("database") == "":
        first = re.search(r'create table if not exists "?(\w+)', text)
        values = {"table": first.group(1) if first is not None else "its tables"}
        yield host.finding("installed.no-database", name, host.relative(path), 1, **values)
        return
    there = answers.get("tables") or {}
    wanted = re.findall(r'create table if not exists "?(\w+)"? \((.*?)\n\);', text, re.DOTALL)
    for table, body in wanted:
        line = text[: text.index(table)].count("\n") + 1
        if table not in there:
            yield host.finding("installed.table-absent", name, host.relative(path), line, table=table)
            continue
        for column in re.findall(r'^\s+"(\w+)"', body, re.MULTILINE):
            if column not in there[table]["columns"]:
                at = line + body[: body.index(f'"{column}"')].count("\n")
                yield host.finding("installed.column-absent", name, host.relative(path), at, table=table, column=column)
    seen[Rung.INSTALLED] = State.PASS, number_of(len(wanted), "table")


def mapped(host: FlaskHost, name: str, records: list[dict[str, Any]]) -> Iterator[Finding]:
    """Yield the tables and columns that the database lacks of records that an object mapper keeps."""
    for one in records:
        absent = [("table", one["table"])] if not one["there"] else [("column", column) for column in one["absent"]]
        for sort, what in absent:
            values = {"table": one["table"], "record": one["record"], "step": _step(host, name, what)}
            if sort == "column":
                values["column"] = what
            file = host.relative(Path(one["file"])) if one["file"] else host.relative(host.entry_file)
            yield host.finding(f"installed.mapped-{sort}-absent", name, file, one["line"], **values)


def _step(host: FlaskHost, name: str, what: str) -> str:
    """Return the command that makes a table or a column, as the site does that."""
    mapper = host.mapper
    if name and (mapper is None or mapper.folder is None) and makes_tables(host, name):
        return f"swift-sprout settle {name}"
    if mapper is None or mapper.folder is None:
        return "make it as the site makes its tables, such as with create_all() in its shell"
    upgrade = "python -m flask db upgrade"
    return upgrade if mapper.makes(what) else f"python -m flask db migrate, read what that wrote, then {upgrade}"


def of_nobody(host: FlaskHost, answers: Answers) -> Iterator[Finding]:
    """Yield what the databases lack of records that no module holds, and why one could not be asked at all."""
    known = host.places.by_name
    yield from mapped(host, "", [one for one in answers.get(DATABASES) or () if one["module"] not in known])
    broken = answers.get("put_together")
    if broken:
        file = Path(broken["file"]) if broken["file"] else host.mapper.file if host.mapper else host.entry_file
        yield host.finding("enabled.records-broken", "", host.relative(file), broken["line"], reason=broken["reason"])
    failed = (answers.get("failures") or {}).get(DATABASES)
    if failed is not None:
        file = host.mapper.file if host.mapper is not None else host.entry_file
        yield host.finding("installed.database-down", "", host.relative(file), 0, reason=said(failed))


_ABSENCES = ("installed.database-down", "installed.mapped-table-absent", "enabled.records-broken")


def absences(findings: Iterable[Finding]) -> list[Finding]:
    """Return the findings that say what the databases lack, or that one cannot be reached."""
    return [
        one
        for one in findings
        if one.code in ("installed.database-down", "installed.mapped-table-absent", "enabled.records-broken")
    ]


def of_the_database(finding: Finding, absent: list[Finding]) -> Finding:
    """Return a page that breaks for want of a table or of the database as what follows from that."""
    if finding.code not in ("served.error", "served.host-page") or finding.follows_from:
        return finding
    reason = finding.value("reason")
    for one in absent:
        kind = one.value("reason").partition(":")[0]
        if re.search(rf"\b{re.escape(one.value('table'))}\b", reason) if not kind else reason.startswith(f"{kind}:"):
            same = one.module == finding.module
            return finding._replace(follows_from=one.code if same else of_another(one.code, one.about))
    return finding
