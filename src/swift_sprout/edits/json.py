"""Edits of JSON by position: a value is put into an object or list, everything else stays as it was written."""

from __future__ import annotations

import json
import re
from typing import Any, NamedTuple

from .carrying import NotCarried

Path = tuple[str | int, ...]
_SPACE = re.compile(r"[ \t\n\r]*")


class Span(NamedTuple):
    """Where a value stands: its first and last place, and those of its items (key and value together)."""

    start: int
    end: int
    items: list[tuple[str | int, int, Span]]


def spans(text: str) -> Span:
    """Return where the values of a JSON text stand; raises NotCarried, naming the line, when it does not parse."""
    try:
        json.loads(text)
    except json.JSONDecodeError as error:
        raise NotCarried(error.lineno, f"it is not JSON: {error.msg}") from None
    found, _ = _read(text, _skip(text, 0))
    return found


def put(text: str, path: Path, key: str | None, value: Any) -> str:
    """Put a value into the object (under ``key``) or list (as last, ``key`` None) at a path.

    A key that is there already is left as it is, and so is a list that holds the value. Raises NotCarried, also where
    more than that would change.
    """
    result = _with(text, path, key, value)
    if result != text and _pairs(result) != _put(_pairs(text), path, key, value):
        raise NotCarried(0, f"{'.'.join(map(str, path)) or 'it'} is written in a way that cannot be edited safely")
    return result


class _Pairs(list[tuple[str, Any]]):
    """An object as it is written: its keys in order, those that stand there twice among them."""


def _pairs(text: str) -> Any:
    return json.loads(text, object_pairs_hook=_Pairs)


def _put(data: Any, path: Path, key: str | None, value: Any) -> Any:
    """Put a value into data that were read as pairs."""
    if path:
        for index, one in enumerate(data):
            if isinstance(data, _Pairs) and one[0] == path[0]:
                data[index] = (one[0], _put(one[1], path[1:], key, value))
                break
            if not isinstance(data, _Pairs) and index == path[0]:
                data[index] = _put(one, path[1:], key, value)
        return data
    plain = json.loads(json.dumps(value), object_pairs_hook=_Pairs)
    data.append(plain if key is None else (key, plain))
    return data


def _with(text: str, path: Path, key: str | None, value: Any) -> str:
    holder = spans(text)
    data = json.loads(text)
    for step in path:
        found = next((span for name, _, span in holder.items if name == step), None)
        if found is None:
            raise NotCarried(0, f"it has no {'.'.join(map(str, path))}")
        holder, data = found, data[step]
    if not isinstance(data, dict if key is not None else list):
        raise NotCarried(_line(text, holder.start), "an object or a list stands in the other's place")
    if (key in data) if key is not None else (value in data):
        return text
    unit = _unit(text)
    spelled = ("" if key is None else json.dumps(key, ensure_ascii=False) + ": ") + json.dumps(
        value, indent=unit, ensure_ascii=False
    )
    if holder.items:
        begin = holder.items[-1][1]
        line = text[text.rfind("\n", 0, begin) + 1 : begin]
        end = holder.items[-1][2].end
        if line.strip():
            flat = json.dumps(value, ensure_ascii=False)
            flat = flat if key is None else f"{json.dumps(key, ensure_ascii=False)}: {flat}"
            return f"{text[:end]}, {flat}{text[end:]}"
        return f"{text[:end]},\n{line}{spelled.replace(chr(10), chr(10) + line)}{text[end:]}"
    start_line = text[text.rfind("\n", 0, holder.start) + 1 :]
    outer = _SPACE.match(start_line).group() if start_line else ""  # type: ignore[union-attr]
    inner = outer + (unit if isinstance(unit, str) else " " * unit)
    body = spelled.replace("\n", "\n" + inner)
    return f"{text[: holder.start + 1]}\n{inner}{body}\n{outer}{text[holder.end - 1 :]}"


def carry_json(current: str, before: str, after: str) -> str:
    """Return ``current`` with what the change between the other two adds; raises NotCarried where it takes away."""
    text = current
    spans(text)
    for path, key, value in _added((), json.loads(before), json.loads(after)):
        text = put(text, path, key, value)
    return text


def _added(path: Path, before: Any, after: Any) -> list[tuple[Path, str | None, Any]]:
    if before == after:
        return []
    if isinstance(before, dict) and isinstance(after, dict) and set(before) <= set(after):
        found: list[tuple[Path, str | None, Any]] = []
        for key, value in after.items():
            found += _added((*path, key), before[key], value) if key in before else [(path, key, value)]
        return found
    if isinstance(before, list) and isinstance(after, list) and all(one in after for one in before):
        return [(path, None, value) for value in after if value not in before]
    raise NotCarried(0, f"{'.'.join(map(str, path)) or 'its value'} changes, and is not only added to")


def _read(text: str, at: int) -> tuple[Span, int]:
    if text[at] not in "{[":
        _, end = json.JSONDecoder().raw_decode(text, at)
        return Span(at, end, []), end
    closing = "}" if text[at] == "{" else "]"
    items: list[tuple[str | int, int, Span]] = []
    place = _skip(text, at + 1)
    while text[place] != closing:
        begin, name = place, len(items)
        key: str | int = name
        if closing == "}":
            key, end = json.JSONDecoder().raw_decode(text, place)
            place = _skip(text, _skip(text, end) + 1)
        span, end = _read(text, place)
        items.append((key, begin, span))
        place = _skip(text, end)
        if text[place] == ",":
            place = _skip(text, place + 1)
    return Span(at, place + 1, items), place + 1


def _skip(text: str, at: int) -> int:
    found = _SPACE.match(text, at)
    return found.end() if found else at


def _line(text: str, place: int) -> int:
    return text.count("\n", 0, place) + 1


def _unit(text: str) -> int | str:
    found = re.search(r"\n([ \t]+)\S", text)
    if found is None:
        return 2
    return "\t" if "\t" in found.group(1) else len(found.group(1))
