"""What the running host answered: the probe's answers in order, and the requests that were made to it."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING, Any, NamedTuple

if TYPE_CHECKING:
    from ....running.loopback import Response


class PageRequest(NamedTuple):
    """One request to the running host: the route it was for, who asked, the answer, and the host's log of it."""

    route: dict[str, Any]
    who: str
    answer: Response
    log: dict[str, Any]

    @property
    def path(self) -> str:
        """The path that was asked for."""
        return str(self.route["path"])


class Live:
    """What the running host answered for all modules.

    answers  -- the probe's answers by step, asked -- the requests by module
    undrawn  -- what is wrong with templates that no page has drawn
    forms    -- what was wrong when the forms that pages show were sent
    stopped  -- modules that stop the host, each with the probe's description of the error; checked without them
    first_registry -- the names in the registry at the first start, before any module was left out
    failure  -- why the host gave no answers at all
    """

    def __init__(self, failure: str = "", failure_remedy: str = "") -> None:
        self.answers: dict[str, Any] = {}
        self.asked: dict[str, list[PageRequest]] = {}
        self.undrawn: list[dict[str, Any]] = []
        self.forms: list[dict[str, Any]] = []
        self.stopped: dict[str, dict[str, Any]] = {}
        self.failure = failure
        self.failure_remedy = failure_remedy
        self.login_served: bool | None = None
        self.first_registry: set[str] | None = None

    #  the answers put in order once, for there may be very many modules

    @cached_property
    def routes_by_module(self) -> dict[str, list[dict[str, Any]]]:
        """The routes of the address table by the module whose controllers they lead to."""
        found: dict[str, list[dict[str, Any]]] = {}
        for route in self.answers.get("routes") or []:
            found.setdefault(route["module"], []).append(route)
        return found

    @cached_property
    def registry_by_name(self) -> dict[str, dict[str, Any]]:
        """The entries of the running host's registry by their names."""
        return {entry["name"]: entry for entry in reversed(self.answers.get("registry") or [])}

    @cached_property
    def tags_drawn(self) -> dict[tuple[str, str, str], PageRequest]:
        """The first page that drew each tag of a library: by the library's module, the tag, and the template."""
        found: dict[tuple[str, str, str], PageRequest] = {}
        for requests in self.asked.values():
            for asked in requests:
                for library, tag, template in asked.log.get("tags") or ():
                    found.setdefault((library, tag, template), asked)
        return found

    def migrations(self, which: str, label: str) -> list[str]:
        """Return the migrations of a label: those ``on_disk``, ``replaced``, ``applied`` or ``due``."""
        return self._migrations.get((which, label), [])

    @cached_property
    def _migrations(self) -> dict[tuple[str, str], list[str]]:
        found: dict[tuple[str, str], list[str]] = {}
        told = self.answers.get("migrations") or {}
        for which in ("on_disk", "replaced", "applied", "due"):
            for name in told.get(which, ()):
                found.setdefault((which, name.partition(".")[0]), []).append(name)
        return found

    @property
    def failures(self) -> dict[str, Any]:
        """The steps of the probe that failed, each with its error."""
        found: dict[str, Any] = self.answers.get("failures", {})
        return found
