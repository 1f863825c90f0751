"""Which Python runs a host: found by looking at folders, without starting anything."""

from __future__ import annotations

import os
import re
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from ..core.errors import WrongUse


class Interpreter(NamedTuple):
    """A Python interpreter.

    path      -- the program
    origin    -- how it was found, for people: ``--runtime``, ``active environment``, ``.venv beside manage.py``
    libraries -- its site-packages folders, as far as they can be told from the folder layout
    """

    path: Path
    origin: str
    libraries: tuple[Path, ...] = ()

    def distribution_version(self, name: str) -> str | None:
        """Return the version of an installed package, read from its metadata folder; None when it is not there."""
        wanted = re.sub(r"[-_.]+", "_", name).lower()
        for folder in self.libraries:
            for entry in _names(folder):
                stem, dash, rest = entry.partition("-")
                if dash and rest.endswith(".dist-info") and re.sub(r"[-_.]+", "_", stem).lower() == wanted:
                    return rest.removesuffix(".dist-info")
        return None

    def top_level_names(self) -> frozenset[str]:
        """Return the names of all packages and modules that are installed for it."""
        return frozenset(
            entry.split(".")[0]
            for folder in self.libraries
            for entry in _names(folder)
            if not entry.endswith((".dist-info", ".egg-info", ".pth")) and entry.split(".")[0].isidentifier()
        )

    def has(self, name: str) -> bool:
        """True when a package or module of that name is installed for it."""
        return any((folder / name).is_dir() or (folder / f"{name}.py").is_file() for folder in self.libraries)


class Search:
    """The interpreter found for a host, if any, and every place looked at with what was wrong with it."""

    def __init__(self) -> None:
        self.found: Interpreter | None = None
        self.tried: list[str] = []


def find_interpreter(given: str | None, beside: Path, package: str, names: tuple[str, ...]) -> Search:
    """Find the interpreter that has a host's package.

    given   -- what ``--runtime`` said: a program or an environment's folder; it is taken as it is
    beside  -- the folder that holds the host's entry script
    package -- the package that the host needs, e.g. ``django``
    names   -- names of environment folders to look for beside the entry script

    Raises WrongUse when ``given`` is no interpreter.
    """
    search = Search()
    if given:
        search.found = _given(given)
        return search
    for prefix, origin in _candidates(beside, names):
        interpreter = _in_environment(prefix, origin)
        if interpreter is None:
            search.tried.append(f"{origin}: no interpreter in {prefix}")
        elif not interpreter.has(package):
            search.tried.append(f"{package} is not installed in {origin} ({prefix})")
        else:
            search.found = interpreter
            break
    return search


def _candidates(beside: Path, names: tuple[str, ...]) -> Iterator[tuple[Path, str]]:
    active = os.environ.get("VIRTUAL_ENV")
    if active:
        yield Path(active), "active environment"
    for name in names:
        if (beside / name).is_dir():
            yield beside / name, f"{name} beside the entry script"
    for folder in above_in_project(beside):
        for name in names:
            if (folder / name).is_dir():
                yield folder / name, f"{name} of the project"
    if sys.prefix != sys.base_prefix and sys.prefix != active:
        yield Path(sys.prefix), "the environment of swift-sprout"


PROJECT_ROOT = (".git", "pyproject.toml")


def above_in_project(folder: Path) -> list[Path]:
    """Return the folders above a host up to the root of the project that it is a part of; none where there is none."""
    above = list(folder.parents)[:4]
    last = next((at for at, one in enumerate(above) if any((one / sign).exists() for sign in PROJECT_ROOT)), None)
    return above[: last + 1] if last is not None else []


def _given(text: str) -> Interpreter:
    path = Path(text).expanduser()
    if path.is_dir():
        found = _in_environment(Path(os.path.normpath(path.absolute())), "--runtime")
        if found is not None:
            return found
    elif os.path.sep not in text:
        from shutil import which

        program = which(text)
        if program is not None:
            path = Path(program)
    if not path.is_file() or not os.access(path, os.X_OK):
        raise WrongUse(
            "python-not-found",
            f"--runtime {text}: there is no interpreter.",
            "Give the path of a python program or of a virtual environment's folder.",
        )
    path = Path(os.path.normpath(path.absolute()))
    return Interpreter(path, "--runtime", _libraries(path.parent.parent) or _asked_libraries(path))


def _in_environment(prefix: Path, origin: str) -> Interpreter | None:
    program = prefix / "bin" / "python"
    if not os.path.exists(program):  # False as well for one that this user may not reach
        return None
    return Interpreter(program.absolute(), origin, _libraries(prefix))


def _libraries(prefix: Path) -> tuple[Path, ...]:
    found = _site_packages(prefix)
    settings = prefix / "pyvenv.cfg"
    if found and settings.is_file():
        lines = (line.partition("=") for line in settings.read_text("utf-8", "replace").splitlines())
        said = {key.strip(): value.strip() for key, _, value in lines}
        if said.get("include-system-site-packages") == "true" and "home" in said:
            found += _site_packages(Path(said["home"]).parent)
    return tuple(found)


def _site_packages(prefix: Path) -> list[Path]:
    """Return the folders of libraries of the interpreters that are installed at a place."""
    names = sorted(name for name in _names(prefix / "lib") if name.startswith("python3"))
    return [folder for name in names if (folder := prefix / "lib" / name / "site-packages").is_dir()]


def _asked_libraries(program: Path) -> tuple[Path, ...]:
    """Ask an interpreter that stands in no environment for its library folders (it runs no host code)."""
    from .process import run

    ended = run([str(program), "-I", "-c", "import site, sys; print(*sys.path, sep='\\n')"], program.parent, 20)
    return tuple(Path(line) for line in ended.output.splitlines() if line.endswith("-packages"))


def _names(folder: Path) -> list[str]:
    try:
        return os.listdir(folder)
    except OSError:
        return []
