"""The modules that a host's folder holds, as its files show them."""

from __future__ import annotations

import os
import re
from collections.abc import Iterable
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from .header import Header, nearly_header, read_header
from .phpfile import Include, PhpClass, PhpFile

if TYPE_CHECKING:
    from tree_sitter import Node

FOLDER = "wp-content/plugins"
THEMES = "wp-content/themes"
STYLE = "style.css"  # holds the header of a theme
_LEFT_OUT = ("node_modules", ".git", ".svn")
OWN_FUNCTIONS = 3  # as many begin alike before that counts as the module's own way of naming
#  words that functions of anybody begin with
_COMMON = frozenset(
    {"wp", "get", "set", "the", "is", "has", "add", "do", "my", "array", "str", "php", "mb", "esc", "sanitize"}
    | {"register", "render", "print", "load", "init"}
)


class ModuleFiles:
    """One module: a folder of its own, or one file.

    name -- the folder's name, or the file's without its ending; place -- the folder, or the file
    sort -- ``module``, or ``theme``: that one is always on which draws the site, and no other
    """

    def __init__(self, place: Path, sort: str = "module") -> None:
        self.place = place
        self.sort = sort
        self.single = place.is_file()
        self.name = place.stem if self.single else place.name
        self._read: dict[Path, PhpFile] = {}
        self._folders: dict[str, Path | None] = {}

    @property
    def folder(self) -> Path:
        """The folder that relative paths of its files begin at."""
        return self.place.parent if self.single else self.place

    @cached_property
    def mains(self) -> list[tuple[Path, Header]]:
        """The files with a header that the host sees; the one named like the folder comes first."""
        if self.sort == "theme":
            style = read_header(self.place / STYLE, "Theme Name")
            return [(self.place / STYLE, style)] if style is not None else []
        files = [self.place] if self.single else sorted(self.place.glob("*.php"))
        found = [(path, header) for path in files if (header := read_header(path)) is not None]
        return sorted(found, key=lambda pair: pair[0].stem != self.name)

    @property
    def main(self) -> Path | None:
        """The main file; None when the host sees none."""
        return self.mains[0][0] if self.mains else None

    @property
    def header(self) -> Header:
        """The header of the main file; an empty one when the host sees none."""
        return self.mains[0][1] if self.mains else Header({}, {})

    @property
    def key(self) -> str:
        """What the host calls the module: the main file's path below the folder of modules."""
        if self.sort == "theme":
            return f"theme {self.name}"
        if self.main is None:
            return self.place.name if self.single else f"{self.name}/{self.name}.php"
        return self.main.name if self.single else f"{self.name}/{self.main.name}"

    @property
    def title(self) -> str:
        """Its name for people."""
        return self.header.get("Plugin Name") or self.name

    @property
    def version(self) -> str:
        """Its version as the header says it."""
        return self.header.get("Version")

    @property
    def needs(self) -> list[str]:
        """The modules that its header says it needs."""
        return [one.strip() for one in self.header.get("Requires Plugins").split(",") if one.strip()]

    @property
    def text_domain(self) -> str:
        """The domain of its texts: what the header says, or its name."""
        return self.header.get("Text Domain") or self.name

    @cached_property
    def paths(self) -> list[Path]:
        """Its PHP files."""
        if self.single:
            return [self.place]
        return [
            path for path in sorted(self.place.rglob("*.php"))
            if path.is_file() and not set(path.relative_to(self.place).parts[:-1]) & set(_LEFT_OUT)
        ]  # fmt: skip

    @cached_property
    def files(self) -> list[PhpFile]:
        """Its PHP files, read."""
        return [self.file(path) for path in self.paths]

    def file(self, path: Path) -> PhpFile:
        """Return one of its files, read once."""
        found = self._read.get(path)
        return found if found is not None else self._read.setdefault(path, PhpFile(path, self.contents[path]))

    @cached_property
    def contents(self) -> dict[Path, bytes]:
        """What its PHP files hold."""
        return {path: path.read_bytes() for path in self.paths}

    def files_with(self, word: bytes) -> list[PhpFile]:
        """Return those of its files that the host runs as code and that hold a word; the others are not read."""
        return [self.file(path) for path, held in self.contents.items() if word in held and self._is_loaded(path)]

    def files_saying(self, words: Iterable[str]) -> list[PhpFile]:
        """Return those that hold one of some words in any case, and that the host runs as code; read are only those."""
        wanted = [word.lower().encode() for word in words]
        lowered = self._lowered.items()
        return [self.file(path) for path, held in lowered if any(word in held for word in wanted)]

    @cached_property
    def _lowered(self) -> dict[Path, bytes]:
        return {path: held.lower() for path, held in self.contents.items() if self._is_loaded(path)}

    def _is_loaded(self, path: Path) -> bool:
        return self.single or path.relative_to(self.folder).parts[0] not in ("tests", "test")

    @cached_property
    def loaded_files(self) -> list[PhpFile]:
        """Its PHP files without its own tests and templates: what the host runs as code."""
        return [one for one in self.files if self._is_loaded(one.path)]

    @cached_property
    def reached_files(self) -> list[PhpFile]:
        """Its files that the host comes to: from the main file over what is included, and what a loader can load."""
        by_path = {file.path: file for file in self.loaded_files}
        loads_classes = any(call.name == "spl_autoload_register" for file in self.loaded_files for call in file.calls)
        waiting: list[PhpFile | None] = [self.main_file] if self.main_file is not None else [*self.loaded_files]
        waiting += [file for file in self.loaded_files if file.classes] if loads_classes else []
        found: list[PhpFile] = []
        while waiting:
            file = waiting.pop(0)
            if file is None or file in found:
                continue
            found.append(file)
            waiting += [by_path.get(path) for path, _ in self.included_by(file)]
        return found

    @cached_property
    def included(self) -> set[Path]:
        """The files that its code includes by their names."""
        return {path for file in self.loaded_files for path, _ in self.included_by(file)}

    @cached_property
    def loaded_as_code(self) -> set[Path]:
        """The files that are loaded at the start, or that define something: others may be parts of pages."""
        told = [one for file in self.loaded_files for one in self.included_by(file)]
        at_start = {path for path, said in told if not said.later}
        defining = {file.path for file in self.files if file.classes or file.functions}
        return at_start | ({path for path, _ in told} & defining)

    def included_by(self, file: PhpFile) -> list[tuple[Path, Include]]:
        """Return the files that one file loads, as far as it says where they are."""
        found = []
        for one in file.includes:
            base = self._folder_named(one.base) if one.base else file.path.parent
            if base is not None:
                found.append((joined(base, one.path), one))
        return found

    def file_meant(self, file: PhpFile, node: Node) -> Path | None:
        """Return the file that an expression means, by its folder or its address; None where it does not say it."""
        said = file.path_of(node)
        if said is None or said[1] in (".", ""):
            return None
        base = self._folder_named(said[0]) if said[0] else file.path.parent
        return joined(base, said[1]) if base is not None else None

    def _folder_named(self, constant: str) -> Path | None:
        """Return the folder that a constant of the module holds; None where no file says it."""
        if constant not in self._folders:
            word = constant.encode()
            defining = [file for file in self.files_with(word) if constant in file.folders]
            said = joined(defining[0].path.parent, defining[0].folders[constant]) if len(defining) == 1 else None
            self._folders[constant] = said
        return self._folders[constant]

    @cached_property
    def own_prefixes(self) -> set[str]:
        """The beginnings that its functions share, such as ``quay_``: a name that begins so is meant as one of them."""
        plain = [name.lstrip("_").partition("_")[0] for name in self.functions if "\\" not in name and "_" in name]
        return {f"{start}_" for start in plain if plain.count(start) >= OWN_FUNCTIONS and start not in _COMMON}

    @cached_property
    def classes(self) -> dict[str, tuple[PhpClass, PhpFile]]:
        """Its classes by their whole names in lower case."""
        return {one.name.lower(): (one, file) for file in self.files for one in file.classes}

    @cached_property
    def functions(self) -> dict[str, tuple[int, PhpFile]]:
        """Its functions by their whole names in lower case."""
        return {name.lower(): (line, file) for file in self.files for name, line in file.functions.items()}

    @cached_property
    def main_file(self) -> PhpFile | None:
        """The main file, read."""
        main = self.place / "functions.php" if self.sort == "theme" else self.main
        return self.file(main) if main is not None and main.is_file() else None

    @property
    def namespace(self) -> str:
        """The namespace of the main file."""
        return self.main_file.namespace if self.main_file is not None else ""

    @property
    def said_namespace(self) -> str:
        """The namespace of the main file, taken from its text without reading all of it."""
        found = re.search(rb"^namespace\s+([\w\\]+)\s*[;{]", self.contents.get(self.main or Path(), b""), re.MULTILINE)
        return found.group(1).decode() if found else ""

    def method(self, owner: str, name: str) -> bool | None:
        """True when a class of the module has a method, itself or from what it extends; None when that is not known."""
        seen: set[str] = set()
        while owner and owner.lower() not in seen:
            seen.add(owner.lower())
            held = self.classes.get(owner.lower())
            if held is None:
                return None
            if name.lower() in held[0].methods or "__call" in held[0].methods or "__callstatic" in held[0].methods:
                return True
            if held[0].sort == "trait":
                return None
            owner = held[0].extends
        return False

    @property
    def looks_like_one(self) -> bool:
        """True when a folder means to be a module although the host sees none in it."""
        return (self.place / "sprout.toml").is_file() or any(
            path.name != "index.php" for path in self.place.glob("*.php")
        )

    def nearly(self) -> tuple[Path, int] | None:
        """Return the file and line of what seems to mean a header that the host does not see."""
        files = (
            [self.place] if self.single else sorted(self.place.glob("*.php"), key=lambda path: path.stem != self.name)
        )
        return next(((path, line) for path in files if (line := nearly_header(path))), None)


def joined(folder: Path, path: str) -> Path:
    """Return the file that a path means from a folder; links are not followed."""
    return Path(os.path.normpath(folder / path))


def modules_of(root: Path) -> list[ModuleFiles]:
    """Return the modules of a host, by name, and its themes behind them."""
    return [*_plain_modules(root / FOLDER), *_themes(root / THEMES)]


def _themes(folder: Path) -> list[ModuleFiles]:
    if not folder.is_dir():
        return []
    entries = sorted(folder.iterdir(), key=lambda path: path.name)
    return [ModuleFiles(entry, "theme") for entry in entries if (entry / STYLE).is_file()]


def _plain_modules(folder: Path) -> list[ModuleFiles]:
    found: list[ModuleFiles] = []
    if not folder.is_dir():
        return []
    for entry in sorted(folder.iterdir(), key=lambda path: path.name):
        if entry.name.startswith(".") or entry.name == "index.php":
            continue
        module = ModuleFiles(entry)
        if entry.is_dir():
            deeper = any(entry.glob("*/*.php")) and not any(entry.glob("*.php"))
            if module.mains or module.looks_like_one or deeper:
                found.append(module)
        elif entry.suffix == ".php" and (module.mains or module.nearly()):
            found.append(module)
    return found
