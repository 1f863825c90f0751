"""Edits of YAML with comments, order and quotes kept."""

from __future__ import annotations

import io
import re
from typing import Any

from .carrying import NotCarried


def put(text: str, path: tuple[str | int, ...], key: str | None, value: Any) -> str:
    """Put a value into the mapping (under ``key``) or list (as last, ``key`` None) at a path.

    A key or item that is there already is left as it is. Raises NotCarried, naming the line, when it does not parse.
    """
    from ruamel.yaml import YAML
    from ruamel.yaml.error import YAMLError

    reader = YAML()
    reader.preserve_quotes = True
    reader.width = 4096
    dash = re.search(r"^( *)-( +)\S", text, re.MULTILINE)
    offset = len(dash.group(1)) if dash and re.search(r":\s*\n +-", text) else 0
    reader.indent(mapping=_unit(text), sequence=offset + 2, offset=offset)
    reader.explicit_start = text.lstrip().startswith("---")
    try:
        data = reader.load(text)
        holder = data
        for step in path:
            holder = holder[step]
    except YAMLError as error:
        mark = getattr(error, "problem_mark", None)
        reason = getattr(error, "problem", None) or "it does not parse"
        raise NotCarried(mark.line + 1 if mark else 0, f"it is not YAML: {reason}") from None
    except (KeyError, IndexError, TypeError):
        raise NotCarried(0, f"it has no {'.'.join(map(str, path))}") from None
    if key is None:
        if value in holder:
            return text
        holder.append(value)
    elif key in holder:
        return text
    else:
        holder[key] = value
    written = io.StringIO()
    reader.dump(data, written)
    return written.getvalue()


def _unit(text: str) -> int:
    found = re.search(r":[ \t]*\n( +)[^ -]", text)
    return len(found.group(1)) if found else 2
