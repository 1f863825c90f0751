"""A module that stops its host is told apart and left out, so that the host answers for the others."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TypeVar

Started = TypeVar("Started")
Why = TypeVar("Why")
MOST_STARTS = 4


def start_without_culprits(
    start: Callable[[Mapping[str, Why]], Started],
    culprit: Callable[[Started, Mapping[str, Why]], tuple[str, Why] | None],
    most: int = MOST_STARTS,
) -> tuple[Started, dict[str, Why]]:
    """Start a host until no module stops it; returns how it started the last time, and what was left out for that.

    start   -- starts the host without some modules, each with what it did
    culprit -- tells which module stopped it, and how; None where it started, or none can be told
    most    -- how often it is started
    """
    left_out: dict[str, Why] = {}
    for _ in range(most):
        started = start(left_out)
        found = culprit(started, left_out)
        if found is None:
            break
        left_out[found[0]] = found[1]
    return started, left_out
