"""One Flask site behind the contract: a wsgi.py, an application factory, and packages with blueprints."""

from __future__ import annotations

import ast
from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ....caching.rests_on import RestsOn
from ....core.errors import HostFailed, Refused
from ....core.hostfacts import Missing, ModuleState, StepRun
from ....core.nearest import nearest
from ....running.interpreter import Search, find_interpreter
from ...contract.exchange import Edit, StartUp
from ...python.interpreter import PythonFacts
from ...python.naming import check_inner_names, check_python_name
from ...shared.base import BaseHost
from .registration import Factory, switch_off, switch_on
from .settling import settle

if TYPE_CHECKING:
    from ....core.brief import Brief
    from ....core.names import NameFamily
    from ....core.results import ModuleCheck, SetupCheck

_NOT_MODULES = frozenset({"tests", "templates", "static", "instance", "__pycache__", "data"})


def _makes_blueprint(folder: Path) -> bool:
    """True for a package one of whose files makes a blueprint; the marker comes first, for most make it there."""
    files = sorted(folder.glob("*.py"), key=lambda path: path.name != "__init__.py")
    return any("Blueprint(" in path.read_text("utf-8", "replace") for path in files)


class FlaskHost(BaseHost):
    """A folder with wsgi.py."""

    @cached_property
    def search(self) -> Search:
        """How the interpreter was looked for."""
        python = self.data.section(PythonFacts)
        return find_interpreter(self.options.runtime, self.root, python.package, python.environments)

    @property
    def version(self) -> str:
        """The installed version of Flask."""
        found = self.search.found
        return (found.distribution_version("flask") or "") if found is not None else ""

    @property
    def runtime(self) -> tuple[str, str]:
        """The interpreter, and how it was found."""
        found = self.search.found
        return (str(found.path), found.origin) if found is not None else ("", "")

    def missing(self) -> list[Missing]:
        """Return what is missing to work here."""
        missing = []
        if self.search.found is None:
            missing.append(Missing("no interpreter with Flask", "name one with --runtime PATH"))
        if self.factory() is None:
            missing.append(Missing("wsgi.py imports no create_app that can be found", "mend the import in wsgi.py"))
        return missing

    def python(self) -> str:
        """Return the host's interpreter; raises HostFailed when there is none."""
        if self.search.found is None:
            raise HostFailed("no-interpreter", "No interpreter with Flask was found.", "Name one with --runtime PATH.")
        return str(self.search.found.path)

    # -- files ----------------------------------------------------------------------------------------------------

    def factory(self) -> Factory | None:
        """Return the application factory that wsgi.py imports, or None."""
        try:
            tree = ast.parse((self.root / "wsgi.py").read_bytes())
        except (OSError, SyntaxError):
            return None
        for node in tree.body:
            if isinstance(node, ast.ImportFrom) and node.module and any(one.name == "create_app" for one in node.names):
                base = self.root.joinpath(*node.module.split("."))
                for path in (base / "__init__.py", base.with_suffix(".py")):
                    if path.is_file():
                        return Factory(path)
        return Factory(self.root / "wsgi.py") if b"def create_app" in (self.root / "wsgi.py").read_bytes() else None

    def need_factory(self) -> Factory:
        """Return the factory; raises Refused where it cannot be edited."""
        found = self.factory()
        if found is None or found.broken or found.function is None:
            reason = found.broken if found is not None and found.broken else "no function create_app is there"
            raise Refused("factory-unclear", f"The application factory cannot be read: {reason}.", "Mend wsgi.py.")
        return found

    def modules(self) -> list[ModuleState]:
        """Return the packages that make a blueprint, or have a brief, or are registered."""
        factory = self.factory()
        registered: set[str] = set()
        if factory is not None:
            registered = {package.partition(".")[0] for package, *_ in factory.registered} | factory.handed_to
        own = factory.path.parent if factory is not None else self.root
        found = []
        for folder in sorted(self.root.iterdir()):
            if not folder.is_dir() or folder.name in _NOT_MODULES or folder == own or folder.name.startswith("."):
                continue
            if _makes_blueprint(folder) or (folder / "sprout.toml").is_file() or folder.name in registered:
                title = folder.name.replace("_", " ").capitalize()
                on = folder.name in registered
                found.append(ModuleState(folder.name, folder.name, title, "", folder.name, True, on, None))
        return found

    def check_name(self, name: NameFamily) -> None:
        """Raise when a new module cannot have this name here."""
        check_python_name(self.data, name.snake)
        super().check_name(name)
        if (self.root / name.snake).exists():
            raise Refused("name-taken", f"There is a folder {name.snake} already.", "Choose another name.")

    def values(self, brief: Brief) -> dict[str, Any]:
        """Return all values that the templates take."""
        from .composing import values_of

        check_inner_names(self.data, brief)
        layout = next(iter(sorted(self.root.glob("*/templates/base.html"))), None)
        text = layout.read_text("utf-8", "replace") if layout is not None else ""
        return values_of(self.data, brief, "base.html" if "block content" in text else "")

    def generate(
        self, module: str, brief: Brief, last: tuple[Brief, Mapping[str, bytes]] | None = None
    ) -> dict[str, bytes]:
        """Return the files that a brief makes of a module."""
        files = super().generate(module, brief, last)
        if brief.endpoints:
            from ...shared.openapi import described

            files["openapi.json"] = described(brief).encode("utf-8")
        return files

    # -- switching ------------------------------------------------------------------------------------------------

    def switch_on(self, module: str, at: str | None) -> Edit:
        """Return the edit that imports and registers a blueprint before the factory's return."""
        return switch_on(self, module, at)

    def switch_off(self, module: str, for_good: bool = False) -> Edit:
        """Return the edit that takes a blueprint's import and registration out."""
        return switch_off(self, module)

    def settle(self, modules: Sequence[str], samples: bool = False) -> list[StepRun]:
        """Make the tables that are not there, by the modules' own commands."""
        return settle(self, modules)

    def start_up(self) -> StartUp:
        """Load the application, and tell whose blueprints it has."""
        from .asking import start_up

        return start_up(self)

    @cached_property
    def database(self) -> Path | None:
        """The SQLite file that the running application names, None where it names none; raises HostFailed."""
        from .asking import database_of

        return database_of(self)

    def kept_data(self, module: str) -> dict[str, int]:
        """Return the rows of a module's tables."""
        from .dropping import kept_data

        return kept_data(self, module)

    def try_drop(self, module: str) -> None:
        """Try on a copy whether a module's tables can be taken away."""
        from .dropping import try_drop

        try_drop(self, module)

    def save_rows(self, module: str, rows_file: Path) -> int:
        """Write a module's rows and the statements that make their tables to a file."""
        from .dropping import save_rows

        return save_rows(self, module, rows_file)

    def drop_data(self, module: str) -> list[StepRun]:
        """Take a module's tables away."""
        from .dropping import drop

        return drop(self, module)

    def load_rows(self, module: str, rows_file: Path) -> None:
        """Make a module's tables again, and put their rows back."""
        from .dropping import load_rows

        load_rows(self, rows_file)

    def serve_command(self, port: int) -> list[str]:
        """Return the command that runs the site's own server."""
        return [
            self.python(),
            "-m",
            "flask",
            "--app",
            "wsgi",
            "run",
            "--no-reload",
            "--host",
            "127.0.0.1",
            "--port",
            str(port),
        ]

    def addresses(self, module: str) -> list[str]:
        """Return the addresses of a module's views that need no parameters."""
        from .reading import SiteFiles

        factory = self.factory()
        prefix = next((one[3] for one in factory.registered if one[0] == module), "") if factory is not None else ""
        paths = [prefix + rule for view in SiteFiles(self).views(module) for rule in view.rules]
        return [path for path in dict.fromkeys(paths) if "<" not in path]

    def relative(self, path: Path) -> str:
        """Return a path relative to the root."""
        return path.relative_to(self.root).as_posix() if path.is_relative_to(self.root) else str(path)

    def settings_files(self) -> list[Path]:
        """Return the files of the application factory."""
        factory = self.factory()
        return [self.root / "wsgi.py", *([factory.path] if factory is not None else [])]

    def rests_on(self) -> RestsOn:
        """Return the site's folder and the names of what is installed for it."""
        found = self.search.found
        return RestsOn((str(self.root),), tuple(map(str, found.libraries)) if found else ())

    def judge(self, modules: Sequence[str], live: bool, result: SetupCheck) -> Iterable[ModuleCheck]:
        """Yield the check of each module."""
        from .examining import judge

        return judge(self, modules, live, result)

    def nearest_module(self, name: str) -> str:
        """Return a clause that names the module nearest to a name; empty when none is near."""
        found = nearest(name, [one.name for one in self.modules()])
        return f"; near is {found}" if found else ""
