"""Indexes whose names the host has made of the table's name: with the table they get another one.

The host makes such a name of the table, the columns and a digest of both (``Index.set_name_with_model``, 5.2); the
migrations of a module say it as it was when they were written.
"""

from __future__ import annotations

import ast
import hashlib
import itertools
import re
from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple

_MADE_NAME = re.compile(r"\w{1,11}_\w{1,7}_[0-9a-f]{6}_\w{1,3}")


class MadeIndex(NamedTuple):
    """An index in migrations: its model in small letters, its fields as they are said there, and its name."""

    model: str
    fields: tuple[str, ...]
    name: str


def renamed_indexes(migrations: Iterable[str], old: str, new: str) -> list[tuple[str, str, str]]:
    """Return the indexes with a made name: the model, the name under the old label, and that under the new one.

    migrations -- their sources, in order
    """
    known: dict[str, MadeIndex] = {}
    for source in migrations:
        for call in _operations(source):
            said = {word.arg: word.value for word in call.keywords if word.arg}
            model = _text(said.get("model_name")) or _text(said.get("name"))
            operation = ast.unparse(call.func).rpartition(".")[2]
            if operation == "RemoveIndex":
                known.pop(_text(said.get("name")), None)
            elif operation == "RenameIndex":
                earlier = known.pop(_text(said.get("old_name")), None)
                fields = earlier.fields if earlier is not None else _texts(said.get("old_fields"))
                _keep(known, MadeIndex(model.lower(), fields, _text(said.get("new_name"))))
            elif operation in ("CreateModel", "AddIndex"):
                for one in _indexes_in(call):
                    _keep(known, one._replace(model=model.lower()))
    found = []
    for one in known.values():
        for columns in _columns(one.fields):
            suffix = one.name.rpartition("_")[2]
            if _made_name(f"{old}_{one.model}", columns, suffix) == one.name:
                found.append((one.model, one.name, _made_name(f"{new}_{one.model}", columns, suffix)))
                break
    return found


def _keep(known: dict[str, MadeIndex], one: MadeIndex) -> None:
    if one.fields and _MADE_NAME.fullmatch(one.name):
        known[one.name] = one


def _operations(source: str) -> Iterator[ast.Call]:
    """Yield the calls that make the operations of a migration."""
    for node in ast.walk(ast.parse(source)):
        if isinstance(node, ast.Call) and ast.unparse(node.func).startswith("migrations."):
            yield node


def _indexes_in(call: ast.Call) -> Iterator[MadeIndex]:
    for node in ast.walk(call):
        if (
            isinstance(node, ast.Call)
            and ast.unparse(node.func).rpartition(".")[2].endswith("Index")
            and node is not call
        ):
            said = {word.arg: word.value for word in node.keywords if word.arg}
            yield MadeIndex("", _texts(said.get("fields")), _text(said.get("name")))


def _columns(fields: Sequence[str]) -> Iterator[tuple[str, ...]]:
    """Yield the columns that fields may have: those of relations end with ``_id``."""
    yield from itertools.product(*((field, f"{field}_id") for field in fields[:6]))


def _made_name(table: str, columns: Sequence[str], suffix: str) -> str:
    """Return the name that the host makes of a table and columns, which begin with ``-`` where they descend."""
    digest = hashlib.md5(usedforsecurity=False)
    for one in (table, *columns, suffix):
        digest.update(one.encode())
    return f"{table[:11]}_{columns[0].lstrip('-')[:7]}_{digest.hexdigest()[:6]}_{suffix}"


def _text(node: ast.expr | None) -> str:
    return node.value if isinstance(node, ast.Constant) and isinstance(node.value, str) else ""


def _texts(node: ast.expr | None) -> tuple[str, ...]:
    elements = node.elts if isinstance(node, ast.List | ast.Tuple) else []
    return tuple(_text(one) for one in elements)
