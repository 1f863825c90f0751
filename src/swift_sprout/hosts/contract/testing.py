"""How a kit runs modules' own tests: programs to be started, and how what they print or record is read."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import NamedTuple

from ...core.testing import Recorded, TestForm


class TestProgram(NamedTuple):
    """One start of a runner, in the host's root.

    runner    -- what it is, for people; form -- what it takes for tests
    command   -- the words; variables -- of its environment
    modules   -- whose tests it runs
    read      -- reads the records that it wrote into the file SPROUT_RECORDS, and what it printed
    """

    runner: str
    command: tuple[str, ...]
    variables: Mapping[str, str]
    modules: tuple[str, ...]
    read: Callable[[str, str], Recorded]
    form: TestForm = TestForm()
