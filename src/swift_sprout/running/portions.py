"""Portions of work that copies of this process take as they come to them: a core that is slower takes fewer."""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator

BYTES = 4  # of a number; the system hands so few over whole, whoever asks at the same time
MOST = 1000  # so many the system holds in any case


class Portions:
    """Numbers of portions, each of which is taken once, in the order in which they were put.

    To be made before the copies are. All is put before the first of those is taken that were put elsewhere: a copy
    that finds nothing more is done.
    """

    def __init__(self, numbers: Iterable[int] = ()) -> None:
        self._reading, self._writing = os.pipe()
        os.set_blocking(self._reading, False)
        self.put(numbers)

    def put(self, numbers: Iterable[int]) -> None:
        """Put numbers, of which there are never more than ``MOST`` at a time."""
        os.write(self._writing, b"".join(number.to_bytes(BYTES, "little") for number in numbers))

    def __iter__(self) -> Iterator[int]:
        """Yield what is left, one by one as it is asked for."""
        while True:
            try:
                yield int.from_bytes(os.read(self._reading, BYTES), "little")
            except BlockingIOError:
                return

    def close(self) -> None:
        """Let go of it; copies have their own hold."""
        os.close(self._reading)
        os.close(self._writing)
