"""Spelling a brief as TOML, one table after the other, in the order in which people say it."""

from __future__ import annotations

from typing import Any

from .brief import Brief

HEAD = "# What this module is. Read by swift-sprout; edit it freely."


def brief_text(brief: Brief) -> str:
    """Return the text of ``sprout.toml``; reading it gives the same brief."""
    data = brief.as_data()
    pieces = [HEAD, f'format = "{data.pop("format")}"']
    for kind, held in data.items():
        for table in [held] if isinstance(held, dict) else held:
            pieces.append("\n" + table_text(kind, table, repeated=not isinstance(held, dict)).rstrip("\n"))
    return "\n".join(pieces) + "\n"


def table_text(kind: str, table: dict[str, Any], repeated: bool = True) -> str:
    """Return one table of a brief: its header and its keys, tables inside on one line."""
    head = f"[[{kind}]]" if repeated else f"[{kind}]"
    return "\n".join([head, *(_pair(key, value) for key, value in table.items())]) + "\n"


def _pair(key: str, value: Any) -> str:
    import tomli_w

    if isinstance(value, dict):
        return f"{key} = {_inline(value)}"
    if isinstance(value, list) and value and isinstance(value[0], dict):
        rows = "".join(f"    {_inline(row)},\n" for row in value)
        return f"{key} = [\n{rows}]"
    if isinstance(value, list):
        items = [_scalar(item) for item in value]
        line = f"{key} = [{', '.join(items)}]"
        return line if len(line) <= 88 else f"{key} = [\n" + "".join(f"    {item},\n" for item in items) + "]"
    return tomli_w.dumps({key: value}).rstrip("\n")


def _scalar(value: Any) -> str:
    import tomli_w

    return tomli_w.dumps({"key": value}).strip().removeprefix("key = ")


def _inline(table: dict[str, Any]) -> str:
    import tomli_w

    pairs = ", ".join(tomli_w.dumps({key: value}).strip() for key, value in table.items())
    return f"{{ {pairs} }}" if pairs else "{}"
