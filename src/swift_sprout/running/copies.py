"""Copies of this process that work beside it, and what is said between it and them."""

from __future__ import annotations

import os
from collections.abc import Callable
from typing import Any

#  copies that were not ended yet; a new one closes what it has of their lines, so that each line has two ends
_at_work: list[Copy] = []
#  what copies tell at their end besides their work: asked there, and taken here
_reports: list[tuple[Callable[[], object], Callable[[Any], None]]] = []


class _Reports(list[Any]):
    """What a copy tells at its end, so that it is not taken for what its work sends."""


def report_at_end(tell: Callable[[], object], take: Callable[[Any], None]) -> None:
    """Let copies that are made from now on tell what ``tell`` returns there when they are done; it is taken here.

    take -- called here when a copy is ended, with what it told; with None when it died before
    """
    _reports.append((tell, take))


def stop_reporting() -> None:
    """Let copies that are made from now on tell nothing but their work."""
    _reports.clear()


class Line:
    """One end of the line between this process and a copy of it: things are sent and received in both directions."""

    def __init__(self, reading: int, writing: int) -> None:
        self._reading = os.fdopen(reading, "rb")
        self._writing = os.fdopen(writing, "wb")

    def send(self, thing: object) -> None:
        """Send a thing; raises OSError when nobody is at the other end."""
        import pickle  # imported where it is used: most commands need it not

        pickle.dump(thing, self._writing, pickle.HIGHEST_PROTOCOL)
        self._writing.flush()

    def receive(self) -> Any:
        """Wait for the next thing; raises EOFError when the other end was closed, or its process ended."""
        import pickle

        try:
            return pickle.load(self._reading)
        except pickle.UnpicklingError as error:  # it ended in the middle of a thing
            raise EOFError from error

    def say_no_more(self) -> None:
        """Let the other end know that nothing will be sent any more."""
        try:
            self._writing.close()
        except OSError:  # what was not sent yet has nobody to go to
            pass

    def close(self) -> None:
        """Close this end."""
        self.say_no_more()
        self._reading.close()


class Copy:
    """A copy of this process, which calls ``work`` with its end of the line and ends; ``line`` is the end here.

    It has what this process had when it was made. What it changes in memory is lost, and so is the memory it took.
    """

    def __init__(self, work: Callable[[Line], None]) -> None:
        self.line: Line
        self.made_by = os.getpid()
        self._takes = [take for _, take in _reports]
        from_copy, to_here = os.pipe()
        from_here, to_copy = os.pipe()
        self.process = os.fork()
        if self.process == 0:
            status = 1
            try:
                os.close(from_copy)
                os.close(to_copy)
                while _at_work:
                    _at_work.pop().line.close()
                line = Line(from_here, to_here)
                work(line)
                if _reports:
                    line.send(_Reports(tell() for tell, _ in _reports))
                status = 0
            finally:
                os._exit(status)
        os.close(to_here)
        os.close(from_here)
        self.line = Line(from_copy, to_copy)
        _at_work.append(self)

    def end(self) -> None:
        """Close the line and wait until the copy has ended."""
        if self in _at_work:
            _at_work.remove(self)
            own = self.made_by == os.getpid()  # else this process was itself made of the one that is to wait
            self.line.say_no_more()
            if own and self._takes:
                self._take_reports()
            self.line.close()
            if own:
                os.waitpid(self.process, 0)

    def _take_reports(self) -> None:
        """Take what it tells at its end; None where it died before."""
        told: object = None
        try:
            while not isinstance(told, _Reports):
                told = self.line.receive()
        except EOFError:
            told = _Reports(None for _ in self._takes)
        for take, one in zip(self._takes, told, strict=True):
            take(one)


def end_copies() -> None:
    """End every copy that is still at work: each finishes what it has begun."""
    for copy in list(_at_work):
        copy.end()
