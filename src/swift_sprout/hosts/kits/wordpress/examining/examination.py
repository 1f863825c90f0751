"""One module under examination: its files, what the host told, and how a finding about it is made."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

if TYPE_CHECKING:
    from collections.abc import Iterator

    from .....core.findings import Finding
    from ..asking import AskedHost, Fatal, Page
    from ..reading.modules import ModuleFiles
    from ..reading.phpfile import Call, PhpFile
    from ..view import HostView


#  files that do not compile, with line and reason
Compiled = dict[str, tuple[int, str]]


class Request(NamedTuple):
    """One address that was asked for: as whom, and what was answered.

    sort -- ``page`` for the site, ``screen`` for the administration, ``endpoint`` for the REST interface
    exact -- False where a part of the address was made up
    """

    sort: str
    path: str
    who: str
    answer: Page
    exact: bool


class Examination:
    """What is known of one module.

    asked -- what the host told, None when only files were read; compiled -- None where nothing was compiled
    """

    def __init__(
        self,
        view: HostView,
        module: ModuleFiles,
        asked: AskedHost | None,
        requests: list[Request] | None = None,
        compiled: Compiled | None = None,
    ) -> None:
        self.view = view
        self.module = module
        self.asked = asked
        self.requests = requests or []
        self.compiled = compiled
        self._place = str(module.place)

    @property
    def answers(self) -> dict[str, Any]:
        """What the loaded host told; empty when it was not asked."""
        return self.asked.boot.answers if self.asked is not None else {}

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
        return bool(self.on) and self.broke is None and "modules" in self.answers

    @property
    def ours(self) -> bool:
        """True when its brief is written down: it was made by this program, and its code is known to that extent."""
        return not self.module.single and (self.module.place / "sprout.toml").is_file()

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
