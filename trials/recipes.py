"""Installs hosts by the recipes that lie in the kits' folders: ``python -m trials.recipes [NAME …]``.

A recipe is a list of packages with exact versions (``NAME.txt``), or a script that is given a folder (``NAME.sh``).
NAME begins with the id of its kit, then comes the host's version. Names that go on bring what only some tests and
surveys read: ``-packages`` are modules of others without a host, ``-modules`` and ``-real`` are environments with many.

Without names, all are installed but for the ``-real`` ones. With the id of a kit, its newest host is, and the last line
printed is what runs it. A host whose recipe has not changed since is left as it is.
"""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from enum import Enum, auto
from pathlib import Path
from typing import NamedTuple

REPOSITORY = Path(__file__).parent.parent
HOSTS = REPOSITORY / ".cache/hosts"
KIT_FOLDERS = REPOSITORY / "src/swift_sprout/hosts/kits"
PACKAGES = "-packages"
REAL = "-real"
AT_ONCE = 2  # unpacking and compiling keep a core each busy
HOST_ALONE = re.compile(r"[a-z]+-[\d.]+")


class Recipe(NamedTuple):
    """What installs a host; ``path`` is its file."""

    path: Path

    @property
    def name(self) -> str:
        """The name of the recipe, and of the folder that the host is installed in."""
        return self.path.stem

    @property
    def folder(self) -> Path:
        """Where the host is installed."""
        return HOSTS / self.name

    @property
    def is_script(self) -> bool:
        """True for a host that is no environment of Python."""
        return self.path.suffix == ".sh"

    @property
    def runtime(self) -> Path:
        """What ``--runtime`` takes."""
        return self.folder if self.is_script else self.folder / "bin/python"

    @property
    def python(self) -> tuple[int, int]:
        """The oldest Python that the host runs on, where its first line says one; else any."""
        said = re.match(r"# python >=(\d+)\.(\d+)\n", self.path.read_text("utf-8"))
        return (int(said[1]), int(said[2])) if said else (0, 0)

    @property
    def version(self) -> tuple[int, ...]:
        """The host's version in numbers."""
        return tuple(map(int, re.findall(r"\d+", self.name)))

    @property
    def is_ready(self) -> bool:
        """True when the host is installed as the recipe says now."""
        mark = self.folder / "ready"
        return mark.is_file() and mark.read_bytes() == self.path.read_bytes()


def recipes() -> Iterator[Recipe]:
    """Yield every recipe of every kit."""
    for path in sorted(KIT_FOLDERS.glob("*/recipes/*")):
        yield Recipe(path)


KITS = sorted({recipe.path.parent.parent.name for recipe in recipes()})


def recipe_named(name: str) -> Recipe:
    """Return the recipe of a name."""
    return next(one for one in recipes() if one.name == name)


def newest_recipe(kit: str) -> Recipe:
    """Return the recipe of the newest host of a kit that the Python runs which this is run by."""
    found = [one for one in recipes() if one.path.parent.parent.name == kit and one.python <= sys.version_info[:2]]
    return max((recipe for recipe in found if HOST_ALONE.fullmatch(recipe.name)), key=lambda recipe: recipe.version)


def install(recipe: Recipe) -> None:
    """Install a host; raises CalledProcessError where a step fails."""
    print(f"installing {recipe.name}", file=sys.stderr, flush=True)
    folder = str(recipe.folder)
    shutil.rmtree(folder, ignore_errors=True)
    if recipe.is_script:
        subprocess.run(["sh", recipe.path, folder], check=True, stdout=sys.stderr)
    elif recipe.name.endswith(PACKAGES):
        _pip(sys.executable, "--target", f"{folder}/packages", "--requirement", recipe.path)
    else:
        python = python_for(recipe)
        if python is None:
            raise NoPython(f"it needs Python {'.'.join(map(str, recipe.python))} or newer, and none is here")
        subprocess.run([python, "-m", "venv", folder], check=True)
        _pip(recipe.runtime, "--requirement", recipe.path)
    shutil.copyfile(recipe.path, recipe.folder / "ready")


class NoPython(Exception):
    """No interpreter is here that a host runs on."""


def python_for(recipe: Recipe) -> str | None:
    """Return an interpreter that a host runs on: this one, or the first newer one that works; None for none."""
    if recipe.python <= sys.version_info[:2]:
        return sys.executable
    names = [f"python3.{minor}" for minor in range(recipe.python[1], recipe.python[1] + 6)]
    places = [place for name in names for place in (shutil.which(name), *_kept_by_version_managers(name)) if place]
    for place in places:
        works = subprocess.run([place, "-c", "import venv"], stderr=subprocess.DEVNULL, stdout=subprocess.DEVNULL)
        if works.returncode == 0:
            return str(place)
    return None


def _kept_by_version_managers(name: str) -> list[str]:
    """Return interpreters that lie where a common manager of versions keeps them, the path or not."""
    return sorted(map(str, Path.home().glob(f".pyenv/versions/*/bin/{name}")))


def _pip(python: str | Path, *words: str | Path) -> None:
    subprocess.run([python, "-m", "pip", "install", "--quiet", "--no-deps", *words], check=True, stdout=sys.stderr)


class State(Enum):
    """How installing a host ended."""

    READY = auto()
    LEFT_OUT = auto()
    FAILED = auto()


def main(names: list[str]) -> int:
    """Install what is named; returns 1 when something could not be."""
    known = {recipe.name: recipe for recipe in recipes()}
    wanted = [newest_recipe(name) if name in KITS else known[name] for name in names]
    chosen = wanted or [recipe for recipe in known.values() if not recipe.name.endswith(REAL)]
    with ThreadPoolExecutor(AT_ONCE) as pool:
        ended = list(pool.map(_installed, chosen))
    for recipe, state in zip(chosen, ended, strict=True):
        if names and state is not State.LEFT_OUT:
            print(recipe.runtime)
    return 1 if State.FAILED in ended else 0


def _installed(recipe: Recipe) -> State:
    if recipe.is_ready:
        return State.READY
    try:
        install(recipe)
    except NoPython as error:  # told, and no failure: tests on it are skipped
        print(f"{recipe.name} is left out: {error}", file=sys.stderr)
        return State.LEFT_OUT
    except subprocess.CalledProcessError as error:
        print(f"{recipe.name} cannot be installed here: {error}", file=sys.stderr)
        return State.FAILED
    return State.READY


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
