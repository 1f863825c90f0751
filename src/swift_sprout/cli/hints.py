"""Commands that are printed for the reader to run: spelled as this one was called, with the options that it needed."""

from __future__ import annotations

import argparse
import os
import re
import shlex
import shutil
import sys

from .main import COMMANDS

NAME = "swift-sprout"
#  options that a further command needs as well, where it takes them, with what they are called among the values
KEPT = {"--host": "host", "--kit": "kit", "--settings": "settings", "--runtime": "runtime"}
_COMMAND = re.compile(rf"(?<![\w/.-]){NAME} (?P<name>{'|'.join(COMMANDS)})\b(?P<words>[^`]*)")


def program() -> str:
    """Return how this program is called from any folder: its name where the shell finds it, else its path."""
    called = sys.argv[0]
    if os.path.basename(called) == "__main__.py":
        return f"{shlex.quote(_as_found(sys.executable))} -m swift_sprout"
    return shlex.quote(_as_found(os.path.abspath(called)))


def _as_found(path: str) -> str:
    """Return the bare name of a program where that is what the shell would run, else its path."""
    name = os.path.basename(path)
    found = shutil.which(name)
    return name if found is not None and os.path.realpath(found) == os.path.realpath(path) else path


def _from_anywhere(value: str) -> str:
    """Return the value of an option as it holds in any folder: a path that is there from the root on."""
    path = os.path.abspath(os.path.expanduser(value))
    return path if os.path.exists(path) else value


class Hints:
    """Spells the commands in what a command prints; ``options`` are those that it was given."""

    def __init__(self, options: argparse.Namespace) -> None:
        said: frozenset[str] = getattr(options, "by_option", frozenset())  # nothing for commands without a host
        self._given = {flag: _from_anywhere(getattr(options, name)) for flag, name in KEPT.items() if name in said}
        if getattr(options, "modules_in", None):  # no file of a project says this one
            self._given["--modules"] = _from_anywhere(options.modules_in)

    def spelled(self, text: str) -> str:
        """Return a text with its commands as they can be pasted.

        A command that is the whole text, or its end, or stands in backticks, has the options as well; of one inside a
        sentence nobody can tell where it ends.
        """
        found = _COMMAND.search(text)
        if found is None:
            return text
        before, after = text[: found.start()], text[found.end() :]
        ends = after.startswith("`") or not before.strip() or before.rstrip().endswith(":")
        words = found["words"]
        options = (
            self._options(found["name"], words) if ends and not re.search(r"[.;,] | tells | writes ", words) else ""
        )
        return f"{before}{program()} {found['name']}{words}{options}{self.spelled(after)}"

    def _options(self, name: str, words: str) -> str:
        if not self._given or "--help" in words:
            return ""
        from .parser import parser_of

        taken = parser_of(name, COMMANDS[name])[1].format_help()
        told = [(flag, value) for flag, value in self._given.items() if flag in taken and f"{flag} " not in words]
        return "".join(f" {flag} {shlex.quote(value)}" for flag, value in told)
