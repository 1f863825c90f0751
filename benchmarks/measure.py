"""Measuring: a command and its floor run in turn, so that both see the same noise; medians are compared."""

from __future__ import annotations

import os
import subprocess
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from statistics import median


@dataclass(frozen=True)
class Row:
    """One line of the table: what was measured, its floor, the ratio of medians, and what it may be at most.

    noise -- how far the floor's runs lie from their middle, as a share of it: what the machine did meanwhile
    """

    name: str
    seconds: float
    floor: float
    at_most: float
    noise: float
    unit: str = "s"
    repeats: int = 1

    @property
    def ratio(self) -> float:
        """How many times the floor it took."""
        return self.seconds / self.floor

    @property
    def kept(self) -> bool:
        """True when the ratio is not above what it may be."""
        return self.ratio <= self.at_most


def command(
    words: Sequence[str | Path], cwd: Path | None = None, statuses: tuple[int, ...] = (0,), **environment: str
) -> Callable[[], None]:
    """Return a function that runs a command to its end and demands its exit status."""
    kept = {key: value for key, value in os.environ.items() if key != "VIRTUAL_ENV"}

    def run() -> None:
        ended = subprocess.run(
            [str(word) for word in words], cwd=cwd, env={**kept, **environment}, capture_output=True, check=False
        )
        if ended.returncode not in statuses:
            raise RuntimeError(f"{words[:9]} ended with {ended.returncode}: {ended.stderr.decode()[-2000:]}")

    return run


def seconds_of(work: Callable[[], None]) -> float:
    """Return how long work takes, in seconds of the clock on the wall."""
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


def median_of(work: Callable[[], None], repeats: int, before: Callable[[], None]) -> float:
    """Return the median of several runs, with ``before`` in front of each, not timed."""
    times = []
    for _ in range(repeats):
        before()
        times.append(seconds_of(work))
    return median(times)


def compare(
    name: str,
    work: Callable[[], None],
    floor: Callable[[], None],
    at_most: float,
    repeats: int = 9,
    before: Callable[[], None] = lambda: None,
) -> Row:
    """Time work and floor in turn; ``before`` puts things back before each and is not timed."""
    works: list[float] = []
    floors: list[float] = []
    for number in range(repeats + 1):
        for function, times in ((floor, floors), (work, works)):
            before()
            taken = seconds_of(function)
            if number:  # the first round only warms up
                times.append(taken)
    middle = median(floors)
    noise = median(abs(one - middle) for one in floors) / middle
    return Row(name, median(works), middle, at_most, noise, repeats=repeats)
