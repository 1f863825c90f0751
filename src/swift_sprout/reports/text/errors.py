"""Errors as text."""

from __future__ import annotations

from ...core.errors import SproutError
from ..terminal import Terminal


def error(out: Terminal, problem: SproutError) -> None:
    """Write an error: code and sentence, the problems with their places, the remedy."""
    out.wrapped(f"{problem.sentence} [{problem.code}]", "  ", out.style("error:", "bad") + " ")
    for one in problem.problems:
        place = f"{one.place}: " if one.place else ""
        out.wrapped(f"{place}{one.what}", "      ", "  · ")
        if one.remedy:
            out.line(f"      {one.remedy}")
    if problem.remedy:
        out.wrapped(problem.remedy, "  ", out.style("remedy:", "strong") + " ")
