"""Using two cores: the same done to many things, and computing while other programs work."""

from __future__ import annotations

import itertools
import os
import sys
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from typing import Generic, TypeVar

Thing = TypeVar("Thing")
Result = TypeVar("Result")

WORTH_IT = 60
LARGEST_PIECE = 1000  # a copy of this process does no more, so that its memory stays small


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
        import threading  # imported where it is used, as pickle is: most commands need neither

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


class InCopy(Generic[Result]):
    """Work that a copy of this process does from now on; ``result`` waits for it.

    It must only read. Where the copy fails, the work is done here when its result is asked for.
    """

    def __init__(self, work: Callable[[], Result]) -> None:
        self._work = work
        self._copy = _start_copy(lambda _: work(), [None])

    def result(self) -> Result:
        """Return what the work returned."""
        return _results_of(*self._copy, lambda _: self._work(), [None])[0]


def both_cores(work: Callable[[Thing], Result], things: Sequence[Thing], worth_it: int = WORTH_IT) -> list[Result]:
    """Return the results of ``work`` in the order of ``things``; of many, copies of this process do a piece each.

    ``work`` must only read: what it changes in a copy is lost, and so is the memory that it took there. As many copies
    as there are cores work at a time. A copy that fails is made up for here, so that the results, and errors, are those
    of doing all in this process. Fewer things than ``worth_it`` are done here.
    """
    cores = os.cpu_count() or 1
    if len(things) < worth_it or (cores < 2 and len(things) < LARGEST_PIECE):
        return [work(thing) for thing in things]
    count = max(cores, -(-len(things) // LARGEST_PIECE))
    count += -count % cores  # so that no core is idle at the end
    cuts = [len(things) * number // count for number in range(count + 1)]
    pieces = [things[begin:end] for begin, end in itertools.pairwise(cuts)]
    copies: deque[tuple[int, int]] = deque()
    found: list[Result] = []
    for number, piece in enumerate(pieces):
        while len(copies) < cores and number + len(copies) < count:
            copies.append(_start_copy(work, pieces[number + len(copies)]))
        found += _results_of(*copies.popleft(), work, piece)
    return found


def _start_copy(work: Callable[[Thing], Result], piece: Sequence[Thing]) -> tuple[int, int]:
    """Start a copy of this process that does a piece; returns its id and the pipe that it writes to."""
    reading, writing = os.pipe()
    child = os.fork()
    if child == 0:
        _in_copy(work, piece, reading, writing)
    os.close(writing)
    return child, reading


def _results_of(child: int, reading: int, work: Callable[[Thing], Result], piece: Sequence[Thing]) -> list[Result]:
    """Return what a copy sends; where it sent nothing that can be read, the piece is done here."""
    import pickle

    try:
        with os.fdopen(reading, "rb") as pipe:
            sent = pipe.read()
    finally:
        os.waitpid(child, 0)
    try:
        results: list[Result] = pickle.loads(sent)
    except (EOFError, pickle.UnpicklingError):
        return [work(thing) for thing in piece]
    return results


def _in_copy(work: Callable[[Thing], Result], things: Sequence[Thing], reading: int, writing: int) -> None:
    import pickle

    status = 1
    try:
        os.close(reading)
        results = pickle.dumps([work(thing) for thing in things])
        with os.fdopen(writing, "wb") as pipe:
            pipe.write(results)
        status = 0
    finally:
        os._exit(status)
