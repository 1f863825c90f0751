"""What hosts share that an interpreter of Python runs."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from ..contract.host import Host
from .interpreter import found_interpreter, own_code

if TYPE_CHECKING:
    from ...core.testing import NeverFound, TestForm
    from ...running.interpreter import Interpreter, Search
    from ..contract.testing import TestProgram


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

    def test_files(self, module: str) -> list[str]:
        """Return the files of a module that hold tests."""
        from .testfiles import test_files

        folder = self.folder(module)
        return [f"{folder}/{one}" for one in test_files(self.root / folder)]

    def test_programs(self, modules: Sequence[str], project: Sequence[Path]) -> list[TestProgram]:
        """Return the host's runner, or pytest where the project uses it."""
        from .testing import programs

        folders = {module: self.folder(module) for module in modules}
        return programs(self.root, self.interpreter(), self.data.facts.own_tests, folders, self.test_probes(), project)

    def test_probes(self) -> Sequence[Path]:
        """Return the folders with what the host's runner imports to record tests."""
        return ()

    def never_found(self, module: str, file: str, form: TestForm) -> NeverFound:
        """Return why a runner finds no test in a file."""
        from .testfiles import never_found

        return never_found(self.root, self.folder(module), file, form)

    def failing_test(self, module: str) -> tuple[str, bytes] | None:
        """Return a test that must fail, beside the module's own."""
        from .testfiles import FAILING, FAILING_FILE

        folder = self.folder(module)
        package = (self.root / folder / "tests" / "__init__.py").is_file()
        return (f"{folder}/tests/{FAILING_FILE}" if package else f"{folder}/{FAILING_FILE}"), FAILING

    def need_runtime(self) -> None:
        """Raise HostFailed where there is no interpreter."""
        self.interpreter()
