"""What hosts and the program above hand to each other: edits, mends, briefs that were read."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    from ...core.brief import Brief
    from ...core.changes import ChangeSet
    from ...core.errors import Problem


class StartUp(NamedTuple):
    """How the host started when it was asked to.

    asked    -- False where it could not be asked: nothing here runs it
    failures -- why it does not start as it should, one sentence each
    modules  -- the modules that it has registered
    """

    asked: bool
    failures: tuple[str, ...] = ()
    modules: frozenset[str] = frozenset()


class Edit:
    """What switching a module on or off would change.

    changes -- the edits; already -- what needs no edit, as sentences; stays -- what is left behind, as sentences
    state_changes -- what ``set_enabled`` will do in the host's own state, as sentences
    unsure  -- what the files do not tell, so that only the running host can say whether the edits do it
    """

    def __init__(self, changes: ChangeSet) -> None:
        self.changes = changes
        self.already: list[str] = []
        self.stays: list[str] = []
        self.state_changes: list[str] = []
        self.unsure: list[Problem] = []


class Mend(NamedTuple):
    """How one finding is mended: the edits, and whether the module must be switched on or settled as well."""

    changes: ChangeSet
    settle: bool = False
    enable: bool = False


class ReadBrief(NamedTuple):
    """What a module's files tell: the brief, and what it cannot say, as places with sentences.

    places -- where each part stands, as file and line, by kind and key
    """

    brief: Brief
    left_out: list[tuple[str, str]]
    places: dict[tuple[str, str], str]
