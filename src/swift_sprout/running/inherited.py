"""Descriptors that started programs inherit: they hold a lock as long as they run, also when we are killed."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

_kept: list[int] = []


@contextmanager
def kept_open(descriptor: int) -> Iterator[None]:
    """Let programs that are started while the block runs hold a descriptor too; a negative one is none."""
    if descriptor < 0:
        yield
        return
    _kept.append(descriptor)
    try:
        yield
    finally:
        _kept.remove(descriptor)


def inherited() -> tuple[int, ...]:
    """Return the descriptors that a program which is started now inherits."""
    return tuple(_kept)
