"""Descriptors that started programs inherit: they hold a lock as long as they run, also when we are killed."""

from __future__ import annotations

import _thread
import os
from collections.abc import Iterator
from contextlib import contextmanager

_kept: list[int] = []
_changing = _thread.allocate_lock()  # programs are started on several threads, while others give up what they held


@contextmanager
def kept_open(descriptor: int) -> Iterator[None]:
    """Let programs that are started while the block runs hold a descriptor too; a negative one is none."""
    if descriptor < 0:
        yield
        return
    with _changing:
        _kept.append(descriptor)
    try:
        yield
    finally:
        with _changing:
            _kept.remove(descriptor)


@contextmanager
def inherited(wanted: bool) -> Iterator[tuple[int, ...]]:
    """Yield descriptors for a program that is started in the block; none unless they are wanted.

    They are copies: the lock is the same, and nobody closes them meanwhile.
    """
    with _changing:
        copies = [os.dup(one) for one in _kept] if wanted else []
    try:
        yield tuple(copies)
    finally:
        for one in copies:
            os.close(one)
