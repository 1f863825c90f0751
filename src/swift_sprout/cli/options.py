"""Options that commands share."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from ..actions.hosting import HostChoice
from ..core.errors import WrongUse
from .output import aside


def common(parser: argparse.ArgumentParser) -> None:
    """Add the options that every command takes."""
    group = parser.add_argument_group("common options")
    group.add_argument(
        "--host",
        metavar="PATH",
        help="the host's folder (default: the nearest host above this folder, else the one below it)",
    )
    group.add_argument(
        "--modules",
        metavar="FOLDER",
        dest="modules_in",
        help="a host that no kit knows, whose modules are the folders in this one",
    )
    group.add_argument("--kit", metavar="ID", help="take the host for this kind, whatever it looks like")
    group.add_argument(
        "--settings", metavar="NAME", help="the settings to run the host with, such as site.settings.test"
    )
    group.add_argument("--format", choices=("text", "json"), default="text", help="form of the output (default: text)")
    group.add_argument("-q", "--quiet", action="store_true", help="print nothing when all is well")
    group.add_argument("--short", action="store_true", help="leave out diffs, and what is known already")
    group.add_argument("-v", "--verbose", action="store_true", help="say more")
    group.add_argument("--words", action="store_true", help="words in the place of signs and tables, for listening")
    group.add_argument("--no-color", action="store_true", help="no colour (NO_COLOR in the environment does the same)")


def runs_host(parser: argparse.ArgumentParser) -> None:
    """Add the options of commands that run the host."""
    parser.add_argument(
        "--runtime", "--python", metavar="PATH", help="the program that runs the host, or its environment's folder"
    )
    parser.add_argument(
        "--time-limit", metavar="SECONDS", type=seconds, help="how long the host may take (default: 60)"
    )


def writes(parser: argparse.ArgumentParser) -> None:
    """Add the options of commands that write into the host."""
    parser.add_argument("--preview", action="store_true", help="show the tree and the diff, write nothing")
    waits(parser)


def doubtful(parser: argparse.ArgumentParser, when: str = "") -> None:
    """Add the option that says what becomes of places which may be common words; ``when`` says with what it goes."""
    parser.add_argument(
        "--doubtful",
        choices=("leave", "take"),
        default="leave",
        help=f"{when}what becomes of places that may be common words (default: leave)",
    )


def words(parser: argparse.ArgumentParser) -> None:
    """Add the option that gives a name for a word of a pattern."""
    parser.add_argument(
        "--word", metavar="WORD=NAME", action="append", default=[], help="with --pattern: what stands for a word of it"
    )


def named_words(given: list[str]) -> dict[str, str]:
    """Return the names that were given for words; raises WrongUse for one without a ``=``."""
    found = {}
    for text in given:
        word, equals, name = text.partition("=")
        if not equals or not word.strip() or not name.strip():
            raise WrongUse("word-unclear", f"--word {text!r} is not WORD=NAME.", 'Write it as: --word "Berth=Mooring"')
        found[word.strip()] = name.strip()
    return found


def waits(parser: argparse.ArgumentParser) -> None:
    """Add the option that says how long to wait for another run."""
    parser.add_argument(
        "--wait", metavar="SECONDS", type=seconds, default=60.0, help="how long to wait for another run (default: 60)"
    )


def seconds(text: str) -> float:
    """Read a number of seconds."""
    value = float(text)
    if not 0 <= value <= 86400:
        raise argparse.ArgumentTypeError("give seconds from 0 to 86400")
    return value


def host_choice(options: argparse.Namespace) -> HostChoice:
    """Return which host the options say."""
    known: dict[str, Any] = vars(options)
    return HostChoice(
        options.host,
        options.kit,
        known.get("runtime"),
        known.get("time_limit") or 60.0,
        known.get("wait", 60.0),
        aside,
        "wait" in known and not known.get("preview") and known.get("mend", True),
        options.settings,
        known.get("leave_out") or (),
        known.get("off") or (),
        known.get("static", False) or known.get("watch", False),
        known.get("runtime_of_project", False),
        options.modules_in,
    )


def start_of(options: argparse.Namespace) -> Path:
    """Return the folder from which the host, and what the project says, are looked for."""
    path = Path(options.host).expanduser().resolve() if options.host else Path.cwd()
    return path if path.is_dir() else path.parent
