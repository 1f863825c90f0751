"""The commands as their parsers tell them: what completions, the manual page and the reference are made of."""

from __future__ import annotations

import argparse
from typing import NamedTuple

from ..hosts.registry import kits
from .main import COMMANDS
from .parser import parser_of


class Option(NamedTuple):
    """One option or argument of a command.

    flags -- its spellings; empty for an argument, metavar -- what stands for its value; empty where it takes none
    """

    flags: tuple[str, ...]
    metavar: str
    help: str
    choices: tuple[str, ...]

    @property
    def takes_path(self) -> bool:
        """True when its value is a file or folder."""
        return self.metavar.partition("[")[0] in ("PATH", "FILE", "FOLDER", "DIR", "HOST")

    @property
    def takes_module(self) -> bool:
        """True when its value is one of the host's modules."""
        return "MODULE" in self.metavar

    @property
    def spelled(self) -> str:
        """The option as it is written, with its value."""
        return ", ".join(f"{flag} {self.metavar}".rstrip() for flag in self.flags) or self.metavar


class Command(NamedTuple):
    """One command: its options and arguments in their order, and what its help says further."""

    name: str
    summary: str
    usage: str
    arguments: tuple[Option, ...]
    options: tuple[Option, ...]
    more: str


def described() -> list[Command]:
    """Return every command."""
    return [_command(name) for name in COMMANDS]


def _command(name: str) -> Command:
    module, parser = parser_of(name, COMMANDS[name])
    options = [_option(action) for action in parser._actions if action.help != argparse.SUPPRESS]
    usage = " ".join(parser.format_usage().removeprefix("usage:").split())
    return Command(
        name,
        COMMANDS[name],
        usage,
        tuple(one for one in options if not one.flags),
        tuple(one for one in options if one.flags),
        str(module.EXAMPLE),
    )


def _listed(action: argparse.Action) -> tuple[str, ...]:
    """Return the values that an option or argument takes, where its help lists them or the kits are meant."""
    if "--kit" in action.option_strings:
        return tuple(kits())
    return (
        tuple((action.help or "").removeprefix("one of: ").split(", "))
        if str(action.help).startswith("one of: ")
        else ()
    )


def _option(action: argparse.Action) -> Option:
    choices = tuple(str(one) for one in action.choices or ()) or _listed(action)
    takes_value = action.nargs != 0
    metavar = action.metavar or ("|".join(choices) if choices else action.dest.upper())
    spelled = " ".join(metavar) if isinstance(metavar, tuple) else str(metavar)
    return Option(tuple(action.option_strings), spelled if takes_value else "", action.help or "", choices)
