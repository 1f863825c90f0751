"""Forms in templates that are sent by POST, and what their code's errors tell when they were sent on trial."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any

from .code_errors import is_of_code

_POSTED = re.compile(r"<form\b[^>]*\bmethod\s*=\s*[\"']?post\b[^>]*>", re.IGNORECASE)
#  what only somebody has who has gone through other pages before, or a host that is set up otherwise
_OF_VISITOR = re.compile(r"\bsession\b|\benviron\b|\bconfig\b")


def lines_of_forms(text: str, without: Sequence[str] = ()) -> Iterator[int]:
    """Yield the lines on which a template's forms begin; only of forms that hold none of some texts."""
    for begins in _POSTED.finditer(text):
        ends = text.lower().find("</form", begins.end())
        inside = text[begins.end() : ends if ends > 0 else len(text)]
        if not any(one in inside for one in without):
            yield text.count("\n", 0, begins.start()) + 1


def is_sure(error: Mapping[str, Any]) -> bool:
    """False for an error of what was made up, or of a visitor who has not gone through the pages before."""
    last = error["chain"][-1]
    if last["kind"] == "KeyError" and last["frames"]:
        path, line = Path(last["frames"][-1]["file"]), last["frames"][-1]["line"]
        lines = path.read_text("utf-8", "replace").splitlines() if path.is_file() else []
        if line <= len(lines) and _OF_VISITOR.search(lines[line - 1]):
            return False
    return is_of_code(error) and "Anonymous" not in str(last["text"])
