"""Using two cores: the same done to many things, and computing while other programs work."""

from __future__ import annotations

import itertools
import os
import sys
from collections import deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from functools import partial
from typing import Generic, TypeVar

from .copies import Copy, Line
from .portions import MOST, Portions

Thing = TypeVar("Thing")
Fact = TypeVar("Fact")
Result = TypeVar("Result")

WORTH_IT = 60
FEW = 16
LARGEST_PIECE = 1000  # a copy of this process does no more, so that its memory stays small


def available_cores() -> int:
    """Return how many cores this process may use: a container, or who started it, may have given it fewer than all."""
    if hasattr(os, "sched_getaffinity"):
        return len(os.sched_getaffinity(0))
    return os.cpu_count() or 1


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
        self._copy = Copy(lambda line: line.send(work()))

    def result(self) -> Result:
        """Return what the work returned."""
        try:
            found: Result = self._copy.line.receive()
        except EOFError:
            return self._work()
        finally:
            self._copy.end()
        return found


def both_cores(
    work: Callable[[Thing], Result], things: Sequence[Thing], worth_it: int = WORTH_IT, largest: int = LARGEST_PIECE
) -> list[Result]:
    """Return the results of ``work`` in the order of ``things``; of many, copies of this process do a piece each.

    ``work`` must only read: what it changes in a copy is lost, and so is the memory that it took there. As many copies
    as there are cores work at a time. A copy that fails is made up for here, so that the results, and errors, are those
    of doing all in this process. Fewer things than ``worth_it`` are done here, and no copy does more than ``largest``.
    """
    cores = available_cores()
    if len(things) < worth_it or (cores < 2 and len(things) < largest):
        return [work(thing) for thing in things]
    count = max(cores, -(-len(things) // largest))
    count += -count % cores  # so that no core is idle at the end
    pieces = _pieces(things, count)
    copies: deque[InCopy[list[Result]]] = deque()
    found: list[Result] = []
    for number in range(count):
        while len(copies) < cores and number + len(copies) < count:
            copies.append(_doing(work, pieces[number + len(copies)]))
        found += copies.popleft().result()
    return found


def _doing(work: Callable[[Thing], Result], piece: Sequence[Thing]) -> InCopy[list[Result]]:
    return InCopy(lambda: [work(thing) for thing in piece])


def few_at_a_time(work: Callable[[Sequence[Thing]], list[Result]], things: Sequence[Thing]) -> list[Result]:
    """Return the results of work that takes a few things at a time, shared out like that of ``both_cores``.

    Doing one step of it to a few things before the next step is much quicker than doing all steps to one thing and then
    to the next: the program's code stays in the processor's own memory meanwhile.
    """
    return _joined(both_cores(work, _few(things), WORTH_IT // FEW, LARGEST_PIECE // FEW))


def in_two_steps(
    things: Sequence[Thing],
    first: Callable[[Sequence[Thing]], list[Fact]],
    merge: Callable[[list[Fact]], None],
    second: Callable[[Sequence[Thing]], list[Result]],
    at_a_time: int = FEW,
) -> list[Result]:
    """Return the results of ``second`` in the order of ``things``, where it needs what ``first`` finds out of all.

    Both take a few things at a time, ``at_a_time`` or fewer unless there are very many, and return something for each.

    merge -- takes what was found out of all things, in their order, before the second step

    Each copy of this process does both steps for what it comes to, so that what it has read in the first is still there
    in the second, and is told in between what the others found out. All three must only read; this process itself may
    end without what was found out. Of very many things each step has copies of its own, for the sake of memory.
    """
    cores = available_cores()
    if cores < 2 or len(things) > cores * LARGEST_PIECE:
        merge(few_at_a_time(first, things))
        return few_at_a_time(second, things)
    few = _few(things, max(at_a_time, -(-len(things) // MOST)))
    to_read, to_judge = Portions(range(len(few))), [Portions() for _ in range(cores)]
    both = partial(_do_both, few=few, first=first, merge=merge, second=second, to_read=to_read)
    copies = [Copy(partial(both, to_judge=[*to_judge[at:], *to_judge[:at]])) for at in range(cores)]
    try:
        told: list[bytes] = [copy.line.receive() for copy in copies]
        for number, copy in enumerate(copies):
            copy.line.send([b"" if other == number else one for other, one in enumerate(told)])
        return _in_order([copy.line.receive() for copy in copies])
    except (EOFError, OSError):
        merge(_joined(first(some) for some in few))
        return _joined(second(some) for some in few)
    finally:
        for copy in copies:
            copy.end()
        for portions in (to_read, *to_judge):
            portions.close()


def _do_both(
    line: Line,
    few: Sequence[Sequence[Thing]],
    first: Callable[[Sequence[Thing]], list[Fact]],
    merge: Callable[[list[Fact]], None],
    second: Callable[[Sequence[Thing]], list[Result]],
    to_read: Portions,
    to_judge: Sequence[Portions],
) -> None:
    """In a copy: do the first step for portions as long as there are any, and tell what came of it; so the second.

    to_judge -- of each copy the portions that it has read; the own ones come first, those of others when none are left
    """
    import pickle

    own = {number: first(few[number]) for number in to_read}
    to_judge[0].put(own)
    line.send(pickle.dumps(own, pickle.HIGHEST_PROTOCOL))  # as bytes: whoever hands it on need not read it
    told: list[bytes] = line.receive()
    merge(_in_order([pickle.loads(one) if one else own for one in told]))
    line.send({number: second(few[number]) for portions in to_judge for number in portions})


def _few(things: Sequence[Thing], at_a_time: int = FEW) -> list[Sequence[Thing]]:
    return [things[at : at + at_a_time] for at in range(0, len(things), at_a_time)]


def _in_order(done: Sequence[dict[int, list[Result]]]) -> list[Result]:
    """Return what several have done, by the numbers of portions, in the order of those."""
    together = {number: results for one in done for number, results in one.items()}
    return _joined(together[number] for number in sorted(together))


def _joined(pieces: Iterable[list[Result]]) -> list[Result]:
    return list(itertools.chain.from_iterable(pieces))


def _pieces(things: Sequence[Thing], count: int) -> list[Sequence[Thing]]:
    """Cut things into a number of pieces of nearly one length."""
    cuts = [len(things) * number // count for number in range(count + 1)]
    return [things[begin:end] for begin, end in itertools.pairwise(cuts)]
