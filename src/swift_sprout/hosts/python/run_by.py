"""What hosts share that an interpreter of Python runs."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from ..contract.host import Host
from .interpreter import found_interpreter, own_code

if TYPE_CHECKING:
    from ...running.interpreter import Interpreter, Search


class RunByPython(Host):
    """A host whose interpreter is looked for as its kit says."""

    @property
    @abstractmethod
    def search(self) -> Search:
        """How the interpreter was looked for, and what was found."""

    def interpreter(self) -> Interpreter:
        """Return the host's interpreter; raises HostFailed when there is none."""
        return found_interpreter(self.search, self.data)

    @property
    def runtime(self) -> tuple[str, str]:
        """The interpreter, and how it was found."""
        found = self.search.found
        return (str(found.path), found.origin) if found is not None else ("", "")

    def own_code(self) -> Sequence[Path]:
        """Return the packages that its modules are written against."""
        return own_code(self.search.found, self.data)

    def need_runtime(self) -> None:
        """Raise HostFailed where there is no interpreter."""
        self.interpreter()
