"""What the program is doing at the moment, for whoever shows it to a person who waits."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager

_listeners: list[Callable[[str], None]] = []
_around: list[str] = []


def doing(what: str) -> None:
    """Say what is being done from now on, in a few words."""
    for listener in _listeners:
        listener(": ".join([*_around, what]))


@contextmanager
def within(what: str) -> Iterator[None]:
    """Say what all that is done in a block is part of, such as the second copy of three."""
    _around.append(what)
    try:
        yield
    finally:
        _around.pop()


def listen(listener: Callable[[str], None] | None) -> None:
    """Let a function be told what is being done; None for nobody any more."""
    _listeners[:] = [listener] if listener is not None else []
