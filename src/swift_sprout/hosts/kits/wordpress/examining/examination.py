"""One module under examination: its files, what the host told, and how a finding about it is made."""

from __future__ import annotations

from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

if TYPE_CHECKING:
    from collections.abc import Iterator

    from .....core.findings import Finding
    from ..asking import AskedHost, Fatal, Watched
    from ..reading.modules import ModuleFiles
    from ..reading.phpfile import Call, PhpFile
    from ..requesting import Page
    from ..view import HostView


#  files that do not compile, with line and reason
Compiled = dict[str, tuple[int, str]]


class Request(NamedTuple):
    """One address that was asked for: as whom, and what was answered.

    sort  -- ``page`` for the site, ``screen`` for the administration, ``endpoint`` for the REST interface
    exact -- False where a part of the address was made up
    place -- file and line that brought the address about; empty where the rule of a page tells it
    """

    sort: str
    path: str
    who: str
    answer: Page
    exact: bool
    place: tuple[str, int] = ("", 0)


class Examination:
    """What is known of one module.

    asked    -- what the host told, None when only files were read
    requests -- the module's own pages, screens and endpoints; around -- pages of the host that are no module's own
    compiled -- None where nothing was compiled; beside -- the names of the modules that are checked with it
    areas    -- the theme's areas that pages drew, whichever module they are of; None where no page came to its end
    """

    def __init__(
        self,
        view: HostView,
        module: ModuleFiles,
        asked: AskedHost | None,
        requests: list[Request] | None = None,
        compiled: Compiled | None = None,
        around: list[Request] | None = None,
        beside: frozenset[str] = frozenset(),
        areas: frozenset[str] | None = None,
    ) -> None:
        self.view = view
        self.module = module
        self.asked = asked
        self.requests = requests or []
        self.around = around or []
        self.beside = beside
        self.areas = areas
        self.compiled = compiled
        self._place = str(module.place)

    @property
    def answers(self) -> dict[str, Any]:
        """What the loaded host told; empty when it was not asked."""
        return self.asked.answers if self.asked is not None else {}

    @cached_property
    def hooks(self) -> list[dict[str, Any]]:
        """What of the module hangs on the host's hooks."""
        by_file = self.asked.hooks_by_file if self.asked is not None else {}
        return [hook for file, hooks in by_file.items() if self.holds(file) for hook in hooks]

    @property
    def hooked(self) -> frozenset[str]:
        """The hooks on which something hangs, whoever's it is."""
        return self.asked.hooked if self.asked is not None else frozenset()

    @property
    def watched(self) -> Iterator[tuple[str, Watched]]:
        """What was seen of modules' code: while the host was loaded, and at each address that was asked for."""
        for number, boot in enumerate(self.asked.boots if self.asked is not None else []):
            yield "the administration" if number else "", boot.watched
        for request in (*self.requests, *self.around):
            yield request.path, request.answer.watched

    @property
    def broke(self) -> Fatal | None:
        """How the module breaks the host; None when it does not."""
        return self.asked.left_out.get(self.module.name) if self.asked is not None else None

    @property
    def on(self) -> bool | None:
        """True when the database says that the module is on; None when it could not be asked."""
        return self.view.is_on(self.module) if self.asked is not None else None

    @property
    def loaded(self) -> bool:
        """True when the running host loaded it."""
        there = self.module.main is not None  # the host leaves out what has no file any more
        return bool(self.on) and there and self.broke is None and "modules" in self.answers

    @property
    def ours(self) -> bool:
        """True when its brief is written down: it was made by this program, and its code is known to that extent."""
        return not self.module.single and (self.module.place / "sprout.toml").is_file()

    @property
    def broke_administration(self) -> Fatal | None:
        """How the module stops the administration alone; None when it does not."""
        return self.asked.left_out_there.get(self.module.name) if self.asked is not None else None

    def place_of(self, broke: Fatal) -> tuple[Path, int, str]:
        """Return file and line of the module that ended a run, and where that was when it is not the module's."""
        if self.holds(broke.file):
            return Path(broke.file), broke.line, ""
        named = self.line_saying(f"'{broke.absent}'", f'"{broke.absent}"') if broke.absent else None
        place, line = named or (self.module.main or self.module.place, 0)
        return place, line, f" (in {self.view.relative(Path(broke.file))}:{broke.line})" if broke.file else ""

    def line_saying(self, *texts: str) -> tuple[Path, int] | None:
        """Return file and line of the module that hold one of the texts first; None where none does."""
        for text in texts:
            for path, content in self.module.contents.items():
                at = content.find(text.encode())
                if at >= 0:
                    return path, content.count(b"\n", 0, at) + 1
        return None

    def holds(self, file: str) -> bool:
        """True when a file is one of the module's."""
        return file == self._place or file.startswith(self._place + "/")

    def calls(self, *names: str) -> Iterator[tuple[PhpFile, Call]]:
        """Yield the module's calls of the host's functions of those names."""
        for file in self.module.files_saying(names):
            for call in file.calls:
                if call.name in names:
                    yield file, call

    def find(self, code: str, path: Path | str, line: int = 0, /, **values: object) -> Finding:
        """Make a finding about the module at a place."""
        file = self.view.relative(Path(path))
        place = f"{file}:{line}" if line else file
        return self.view.data.rules.finding(code, self.module.name, file, line, **{"place": place, **values})
