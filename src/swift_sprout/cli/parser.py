"""The parser of one command: argparse's, with our form of errors."""

from __future__ import annotations

import argparse
import re
from importlib import import_module
from types import ModuleType

from ..reports.terminal import screen_width


def parser_of(name: str, summary: str) -> tuple[ModuleType, argparse.ArgumentParser]:
    """Return a command's module and its parser; ``summary`` says what the command does."""
    command = import_module(f".commands.{name}", __package__)
    parser = Parser(
        prog=f"swift-sprout {name}",
        description=summary[0].upper() + summary[1:] + ".",
        epilog=command.EXAMPLE,
        formatter_class=HelpFormatter,
    )
    command.arguments(parser)
    return command, parser


class HelpFormatter(argparse.RawDescriptionHelpFormatter):
    """argparse's, told the width: it would import much to ask for it, and does so for every option that is added."""

    def __init__(self, prog: str) -> None:
        super().__init__(prog, width=min(screen_width(), 120) - 2)

    def _fill_text(self, text: str, width: int, indent: str) -> str:
        return "\n".join(line for part in text.splitlines() for line in fitted(part, width))


class Parser(argparse.ArgumentParser):
    """argparse with our form of errors: a sentence, a remedy, exit status 2."""

    def error(self, message: str):  # type: ignore[no-untyped-def]
        """Raise what argparse would print."""
        from ..core.errors import WrongUse

        sentence = message[0].upper() + message[1:]
        remedy = f"See: {self.prog} --help"
        unknown = message.removeprefix("unrecognized arguments: ").split()[0] if "unrecognized" in message else ""
        if unknown.startswith("--"):
            from ..core.nearest import nearest

            meant = nearest(unknown.partition("=")[0], re.findall(r"--[a-z-]+", self.format_help()))
            remedy = f"Did you mean {meant}? {remedy}" if meant else remedy
        raise WrongUse("arguments", sentence.rstrip(".") + ".", remedy)


def fitted(line: str, width: int) -> list[str]:
    """Break a line of help that is too long: commands so that they can be typed as they stand, all else as text."""
    if len(line) <= width:
        return [line]
    import textwrap

    indent = line[: len(line) - len(line.lstrip())]
    if indent and line.lstrip().startswith(("swift-sprout", "--")):
        pieces = re.findall(r"(?:\"[^\"]*\"|\S)+", line.removesuffix(" \\"))
        more = line.endswith(" \\")
        lines, current = [], indent + pieces[0]
        for piece in pieces[1:]:
            if len(current) + len(piece) + 3 > width and current.strip():
                lines.append(current + " \\")
                current = f"{indent}    {piece}"
            else:
                current += f" {piece}"
        return [*lines, current + (" \\" if more else "")]
    hang = indent + "    " if indent else ""
    return textwrap.wrap(line, width, subsequent_indent=hang, break_long_words=False, break_on_hyphens=False)
