"""Using two cores: the same done to many things, and computing while other programs work."""

from __future__ import annotations

import os
import pickle
import sys
import threading
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from typing import Generic, TypeVar

Thing = TypeVar("Thing")
Result = TypeVar("Result")

WORTH_IT = 60


@contextmanager
def letting_go() -> Iterator[None]:
    """While the block runs, let threads that wait for other programs go on soon although another one computes."""
    usual = sys.getswitchinterval()
    sys.setswitchinterval(usual / 10)
    try:
        yield
    finally:
        sys.setswitchinterval(usual)


class Meanwhile(Generic[Result]):
    """Work that waits for other programs, on a thread of its own; ``result`` waits for it and raises what it raised."""

    def __init__(self, work: Callable[[], Result]) -> None:
        self._found: list[Result] = []
        self._raised: BaseException | None = None
        self._thread = threading.Thread(target=self._run, args=(work,), daemon=True)
        self._thread.start()

    def _run(self, work: Callable[[], Result]) -> None:
        try:
            self._found.append(work())
        except BaseException as error:
            self._raised = error

    def wait(self) -> None:
        """Wait until it is done, however it ended."""
        self._thread.join()

    def result(self) -> Result:
        """Return what the work returned."""
        self.wait()
        if self._raised is not None:
            raise self._raised
        return self._found[0]


def both_cores(work: Callable[[Thing], Result], things: Sequence[Thing], worth_it: int = WORTH_IT) -> list[Result]:
    """Return the results of ``work`` in the order of ``things``; of many, a copy of this process does half.

    ``work`` must only read: what it changes in the copy is lost. A copy that fails is made up for here, so that the
    results, and errors, are those of doing all in this process. Fewer things than ``worth_it`` are done here.
    """
    if len(things) < worth_it or (os.cpu_count() or 1) < 2:
        return [work(thing) for thing in things]
    half = len(things) // 2
    reading, writing = os.pipe()
    child = os.fork()
    if child == 0:
        _in_copy(work, things[half:], reading, writing)
    os.close(writing)
    try:
        first = [work(thing) for thing in things[:half]]
        with os.fdopen(reading, "rb") as pipe:
            sent = pipe.read()
    finally:
        os.waitpid(child, 0)
    try:
        second: list[Result] = pickle.loads(sent)
    except (EOFError, pickle.UnpicklingError):
        second = [work(thing) for thing in things[half:]]
    return first + second


def _in_copy(work: Callable[[Thing], Result], things: Sequence[Thing], reading: int, writing: int) -> None:
    status = 1
    try:
        os.close(reading)
        results = pickle.dumps([work(thing) for thing in things])
        with os.fdopen(writing, "wb") as pipe:
            pipe.write(results)
        status = 0
    finally:
        os._exit(status)
