"""What holds for a command where its options say nothing: the environment, then the project's file, then a default."""

from __future__ import annotations

import argparse
import os
from collections.abc import Mapping
from pathlib import Path
from typing import NamedTuple

from ..actions.hosting import project_around
from ..core.errors import Refused, WrongUse
from ..core.nearest import did_you_mean
from ..core.project import Project

PREFIX = "SWIFT_SPROUT_"
#  by key: what holds where nobody says anything
DEFAULTS: Mapping[str, str] = {
    "host": "the nearest above this folder, else the one below it",
    "kit": "by what lies in the host's folder",
    "runtime": "found in the host's folder, its environment or the PATH",
    "settings": "the host's own choice",
    "time_limit": "60",
    "style": "signs",
    "leave_out": "",
    "off": "",
    "known": "",
    "rule_pages": "those that came with the program",
}
LISTS = ("leave_out", "off")
#  other variables of ours
BESIDE = ("CONFINED", "SCRATCH", "STATE", "TRACE")


class Held(NamedTuple):
    """One value that holds, and where it comes from: an option, a variable, a file, or nowhere."""

    key: str
    value: str
    source: str

    @property
    def given(self) -> bool:
        """True where somebody says it."""
        return self.source != "default"


def held(options: argparse.Namespace) -> list[Held]:
    """Return all values with their sources; raises Refused for a wrong file or an unknown variable."""
    refuse_unknown(os.environ)
    said_host = getattr(options, "host", None) or os.environ.get(f"{PREFIX}HOST")
    project = project_around(_folder(Path(said_host).expanduser() if said_host else Path.cwd()))
    return [_held(key, options, project) for key in DEFAULTS]


def refuse_unknown(environment: Mapping[str, str]) -> None:
    """Refuse a variable that looks like one of ours and is none, with the nearest one."""
    known = [f"{PREFIX}{name}" for name in (*(key.upper() for key in DEFAULTS), *BESIDE)]
    for name in environment:
        if name.startswith(PREFIX) and name not in known:
            raise Refused(
                "variable-unknown",
                f"{name} in the environment is no variable of swift-sprout.",
                did_you_mean(name, known),
            )


def _held(key: str, options: argparse.Namespace, project: Project) -> Held:
    option = getattr(options, key, None)
    if option:
        return Held(key, str(option), f"--{key.replace('_', '-')}")
    if key == "style" and getattr(options, "words", False):
        return Held(key, "words", "--words")
    name = f"{PREFIX}{key.upper()}"
    if os.environ.get(name):
        return Held(key, os.environ[name], name)
    said = getattr(project.settings, key)
    if said and (key != "style" or said != "signs"):
        text = ", ".join(said) if key in LISTS else str(said)
        return Held(key, _from(project.folder, key, text), os.path.join(project.folder, project.file))
    return Held(key, DEFAULTS[key], "default")


def _from(folder: str, key: str, text: str) -> str:
    """Return a value of a file; a path in it starts at the file's folder."""
    if key == "host" or (key == "runtime" and (os.sep in text or text == "..")):
        return os.path.normpath(os.path.join(folder, os.path.expanduser(text)))
    return text


def _folder(path: Path) -> Path:
    path = path.resolve()
    return path if path.is_dir() else path.parent


def apply(options: argparse.Namespace) -> None:
    """Fill in what the options do not say; raises WrongUse or Refused for a value that cannot be taken."""
    options.by_option = frozenset(key for key in DEFAULTS if getattr(options, key, None))
    for one in held(options):
        if not one.given or one.key in options.by_option:
            continue
        if one.key == "style":
            _apply_style(options, one)
        elif one.key in LISTS:
            setattr(options, one.key, tuple(filter(None, (part.strip() for part in one.value.split(",")))))
        elif one.key == "time_limit":
            options.time_limit = _seconds(one)
        elif one.key == "host" and not Path(one.value).expanduser().exists():
            raise WrongUse("path-absent", f"{one.source}: host is {one.value}, which does not exist.", "Fix it there.")
        elif one.key == "rule_pages":
            from ..reports.rulepages import check_address  # most commands tell of no rule

            check_address(one.value, one.source)
            options.rule_pages = one.value
        elif one.key in ("host", "kit", "settings", "runtime"):
            setattr(options, one.key, one.value)
            options.runtime_of_project = one.key == "runtime" and not one.source.startswith(PREFIX)
        elif one.key == "known" and hasattr(options, "known") and one.source.startswith(PREFIX):
            options.known = one.value


def _apply_style(options: argparse.Namespace, one: Held) -> None:
    if one.value not in ("signs", "words"):
        raise WrongUse(
            "arguments", f"{one.source}: {one.value!r} is no style.", did_you_mean(one.value, ("signs", "words"))
        )
    options.words = one.value == "words"


def _seconds(one: Held) -> float:
    from .options import seconds

    try:
        return seconds(one.value)
    except (ValueError, argparse.ArgumentTypeError):
        remedy = "Give seconds from 0 to 86400."
        raise WrongUse("arguments", f"{one.source}: {one.value!r} is no time limit.", remedy) from None
