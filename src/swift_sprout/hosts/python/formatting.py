"""Generated Python in the project's own style: its line length and quotes, its order of imports.

The style is what the nearest configuration of a formatter or linter says, at the host or above it in its project; where
there is none, the ecosystem's default. Formatting is done by Ruff, whose output is that of the other usual formatter.
"""

from __future__ import annotations

import configparser
import re
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any, NamedTuple

import tomli

from ...core.changes import ChangeSet
from ...core.made import MADE_FILE, Made
from ...running.interpreter import above_in_project
from ...running.process import run
from ...running.scratch import scratch_folder

_LIMIT_SECONDS = 20.0
_FOR_LINTERS = ((".flake8", "flake8"), ("setup.cfg", "flake8"), ("tox.ini", "flake8"), ("setup.cfg", "pycodestyle"))
DEFAULT_LENGTH = 88


class CodeStyle(NamedTuple):
    """How a project spells Python.

    line_length -- in characters
    keep_quotes -- leave quotes as they are
    configured  -- the file that says more, for the formatter itself; None where there is none
    """

    line_length: int = DEFAULT_LENGTH
    keep_quotes: bool = False
    configured: Path | None = None


def style_of(root: Path) -> CodeStyle:
    """Return the style of the project that a host is a part of."""
    for folder in (root, *above_in_project(root)):
        for found in _said_in(folder):
            return found
    return CodeStyle()


def _said_in(folder: Path) -> Iterator[CodeStyle]:
    """Yield what the files of one folder say of style, what counts most first."""
    for name in (".ruff.toml", "ruff.toml"):
        if (folder / name).is_file():
            yield CodeStyle(_length(_toml(folder / name).get("line-length")), False, folder / name)
    tools = _table(_toml(folder / "pyproject.toml"), "tool")
    if "ruff" in tools:
        yield CodeStyle(_length(_table(tools, "ruff").get("line-length")), False, folder / "pyproject.toml")
    if "black" in tools:
        black = _table(tools, "black")
        yield CodeStyle(_length(black.get("line-length")), bool(black.get("skip-string-normalization")))
    for name, section in _FOR_LINTERS:
        parser = configparser.ConfigParser(interpolation=None)
        try:
            parser.read(folder / name, "utf-8")
        except (configparser.Error, UnicodeDecodeError):
            continue
        if parser.has_option(section, "max-line-length"):
            yield CodeStyle(_length(parser.get(section, "max-line-length")))


def _length(said: object) -> int:
    found = re.match(r"\d+", str(said))
    return int(found.group()) if found and 1 <= int(found.group()) <= 320 else DEFAULT_LENGTH


def _table(data: Mapping[str, Any], key: str) -> Mapping[str, Any]:
    """Return a table of a configuration; an empty one where something else stands in its place."""
    found = data.get(key)
    return found if isinstance(found, dict) else {}


def _toml(path: Path) -> dict[str, Any]:
    try:
        return tomli.loads(path.read_text("utf-8"))
    except (OSError, UnicodeDecodeError, tomli.TOMLDecodeError):
        return {}


def formatted(files: Mapping[str, bytes], root: Path) -> dict[str, bytes]:
    """Return files with those in Python formatted as a host's project does; as they are where that cannot be done.

    A configuration that this formatter cannot follow, as one that asks for another version of it, counts for its line
    length alone.
    """
    code = {path: content for path, content in files.items() if path.endswith(".py") and content.strip()}
    if not code:
        return dict(files)
    style = style_of(root)
    with scratch_folder() as scratch:
        for path, content in code.items():
            (scratch / path).parent.mkdir(parents=True, exist_ok=True)
            (scratch / path).write_bytes(content)
        for followed in dict.fromkeys((style, style._replace(configured=None))):
            if _format(scratch, followed, root):
                return {**files, **{path: (scratch / path).read_bytes() for path in code}}
    return dict(files)


def _format(folder: Path, style: CodeStyle, root: Path) -> bool:
    """Format all Python below a folder; False where the formatter cannot."""
    options = _options(style, root)
    try:
        from ruff import find_ruff_bin  # a package with the program, and nothing else

        program = find_ruff_bin()
        if _sorts_imports(style):  # in the usual order they are already
            run([program, "check", "--quiet", "--fix-only", "--select", "I", *options, "."], folder, _LIMIT_SECONDS)
        return run([program, "format", "--quiet", *options, "."], folder, _LIMIT_SECONDS).status == 0
    except (ImportError, OSError):
        return False


def tidied(made: Sequence[ChangeSet], root: Path) -> list[ChangeSet]:
    """Return change sets that make modules with their Python, and what they keep of it, formatted; in one go."""
    code = {
        f"{number}/{change.path}": change.after
        for number, changes in enumerate(made)
        for change in changes.changes
        if change.path.endswith(".py") and change.after is not None
    }
    done = formatted(code, root)
    found = []
    for number, changes in enumerate(made):
        tidy = ChangeSet(changes.title)
        for change in changes.changes:
            folder, _, name = change.path.rpartition("/")
            after = done.get(f"{number}/{change.path}", change.after)
            if name == MADE_FILE and change.after is not None:
                kept = Made.read(change.after, change.path)
                files = {path: done.get(f"{number}/{folder}/{path}", text) for path, text in kept.files.items()}
                after = kept._replace(files=files).content()
            tidy.add(change.path, change.before, after)
        found.append(tidy)
    return found


def _sorts_imports(style: CodeStyle) -> bool:
    """True for a project that says how imports are sorted."""
    return style.configured is not None and "isort" in style.configured.read_text("utf-8", "replace")


def _options(style: CodeStyle, root: Path) -> list[str]:
    quotes = ['format.quote-style="preserve"'] if style.keep_quotes else []
    sources = f"src={[str(root), str(root / 'src')]}"
    said = [str(style.configured)] if style.configured is not None else [f"line-length={style.line_length}"]
    chosen = [word for one in (*said, sources, *quotes) for word in ("--config", one)]
    return ["--no-cache", *([] if style.configured is not None else ["--isolated"]), *chosen]
