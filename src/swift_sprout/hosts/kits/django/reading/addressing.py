"""The order of addresses in a file that an edit was carried into."""

from __future__ import annotations

import ast
from pathlib import Path

from .....edits.carrying import NotCarried
from .....edits.python import insert_item, remove_item, spelled_as
from .....edits.source import SourceText
from .addresses import Route
from .code import spelled
from .matching import answers_itself, sample_address


def ahead_of_what_swallows(before: bytes, after: bytes) -> bytes:
    """Return a file of addresses in which no new one stands behind one of the same list that answers for it.

    before, after -- the file without the new addresses, and with them where they were put
    """
    try:
        known = {ast.dump(element) for element in _patterns(before.decode("utf-8", "replace"))}
        source = SourceText.python(after)
        text = source.text
        for _ in range(len(_patterns(text))):
            move = _first_swallowed(text, known)
            if move is None:
                return source.with_text(text).content()
            text = _moved(text, *move)
    except (SyntaxError, UnicodeError, NotCarried):
        return after  # where it stands is told by a check
    return source.with_text(text).content()


def _list_of(text: str) -> ast.List | None:
    """Return the first list of ``urlpatterns`` that is written out."""
    for node in ast.parse(text).body:
        if isinstance(node, ast.Assign) and isinstance(node.value, ast.List):
            if any(isinstance(target, ast.Name) and target.id == "urlpatterns" for target in node.targets):
                return node.value
    return None


def _patterns(text: str) -> list[ast.expr]:
    found = _list_of(text)
    return found.elts if found is not None else []


def _first_swallowed(text: str, known: set[str]) -> tuple[int, int] | None:
    """Return the indices of a new address and of the one that answers for it; None where there is none."""
    elements = _patterns(text)
    routes = [_route(element) for element in elements]
    for at, (element, route) in enumerate(zip(elements, routes, strict=True)):
        address = sample_address(route) if route is not None and ast.dump(element) not in known else None
        for earlier, other in enumerate(routes[:at]) if address is not None else ():
            if other is not None and ast.dump(elements[earlier]) in known and answers_itself(other, str(address)):
                return at, earlier
    return None


def _moved(text: str, index: int, before: int) -> str:
    """Return a text with one element of the list moved ahead of another."""
    found = _list_of(text)
    assert found is not None
    item = spelled_as(text, found.elts[index])
    text = remove_item(text, found, index)
    found = _list_of(text)
    assert found is not None
    return insert_item(text, found, item, before=before)


def _route(node: ast.expr) -> Route | None:
    """Return a pattern that is spelled in its own call; None for all else."""
    if not isinstance(node, ast.Call) or len(node.args) < 2 or not isinstance(node.args[0], ast.Constant):
        return None
    includes = "?" if isinstance(node.args[1], ast.Call) and spelled(node.args[1].func).endswith("include") else ""
    regular = spelled(node.func).rpartition(".")[2] != "path"
    return Route(str(node.args[0].value), Path(), node.lineno, regular, includes)
