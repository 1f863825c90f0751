"""What the commands on patterns did or found, as data."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import NamedTuple

from ..changes import ChangeSet
from ..errors import SproutError
from ..results import CheckResult
from .pattern import Pattern


@dataclass
class Taken:
    """What was taken of a module, or would be.

    times    -- how often each word stands in the files; hosts -- words of the host that were left as they are
    doubtful -- places that may be a common word, and were left: path, line, text
    as_is    -- files that hold no text, or too much of it: they are part of the pattern as they are
    """

    module: str
    pattern: Pattern
    folder: str
    changes: ChangeSet
    times: dict[str, int] = field(default_factory=dict)
    hosts: list[str] = field(default_factory=list)
    doubtful: list[tuple[str, int, str]] = field(default_factory=list)
    as_is: list[str] = field(default_factory=list)


@dataclass
class FromPattern:
    """A module that was made from a pattern, or would be.

    address -- under which its pages go; empty for none
    by_hand -- lines that belong into files where no sister line shows the place
    """

    pattern: str
    module: str
    title: str
    folder: str
    changes: ChangeSet
    address: str = ""
    by_hand: list[tuple[str, str]] = field(default_factory=list)


@dataclass
class Batch:
    """Modules made together, in one change set; ``registers`` where it is known how the host registers them."""

    modules: list[FromPattern]
    changes: ChangeSet
    registers: bool


class TestsRun(NamedTuple):
    """How the own tests of a module on trial ended.

    passed -- None where they were not run; said -- why not, else the end of what they printed
    """

    passed: bool | None
    said: str


class Tried(NamedTuple):
    """How a pattern did.

    module -- that was made in the copy
    result -- what the check of it there found
    tests  -- how its own tests ended there
    traced -- places of findings and of failed tests, and the place of the pattern that made the line
    """

    pattern: str
    module: FromPattern
    result: CheckResult
    tests: TestsRun
    traced: dict[str, str]


class Located(NamedTuple):
    """A line of a module's file, and the line of the pattern that made it.

    made_of, made_line -- file and line of the pattern; line 0 where somebody wrote the line since
    text               -- the pattern's line, else the module's
    """

    file: str
    line: int
    made_of: str
    made_line: int
    text: str


class Product(NamedTuple):
    """A module that a pattern made; ``behind`` where the pattern holds something else since."""

    module: str
    behind: bool


class Kept(NamedTuple):
    """A pattern as it lies in the host: read, or what is wrong with it; and the modules that it made."""

    name: str
    pattern: Pattern | None
    wrong: SproutError | None
    products: tuple[Product, ...]


class Dropped(NamedTuple):
    """A pattern that was taken away, or would be, and the modules that it made: they stay as they are."""

    name: str
    products: tuple[Product, ...]
    changes: ChangeSet
