"""Writes docs/reference.md and docs/swift-sprout.1 from the parsers: ``python tools/reference.py``."""

from __future__ import annotations

import os
import re
import sys
from collections.abc import Iterator, Sequence
from pathlib import Path

REPOSITORY = Path(__file__).parent.parent
sys.path.insert(0, str(REPOSITORY / "src"))
os.environ["COLUMNS"] = "100"

from swift_sprout.cli.describing import Command, Option, described  # noqa: E402
from swift_sprout.cli.main import EXIT_STATUS  # noqa: E402

REFERENCE = REPOSITORY / "docs/reference.md"
MANUAL = REPOSITORY / "docs/swift-sprout.1"
COMMON = "common"
ABOUT = "Makes extension modules for web hosts and proves that the host finds, registers, enables and serves them."


def split(commands: Sequence[Command]) -> tuple[list[Option], dict[str, list[Option]]]:
    """Return the options that every command has, and those of each command alone."""
    shared = [one for one in commands[0].options if all(one in command.options for command in commands)]
    return shared, {command.name: [one for one in command.options if one not in shared] for command in commands}


def reference(commands: Sequence[Command]) -> str:
    """Return the reference as a page."""
    shared, own = split(commands)
    lines = ["# Reference", "", "Made from the program by `python tools/reference.py`.", ""]
    lines += [f"Exit status: {EXIT_STATUS}.", "", "## Options of every command", "", *_table(shared)]
    for command in commands:
        lines += ["", f"## {command.name}", "", f"{command.summary[0].upper()}{command.summary[1:]}.", ""]
        if command.arguments or own[command.name]:
            lines += [*_table([*command.arguments, *own[command.name]]), ""]
        lines += ["```text", command.more.rstrip(), "```"]
    return "\n".join(lines) + "\n"


def _table(options: Sequence[Option]) -> Iterator[str]:
    yield "| Option | Does |"
    yield "| --- | --- |"
    for one in options:
        spelled = one.spelled.replace("|", "\\|")
        said = one.help.replace("|", "\\|")
        yield f"| `{spelled}` | {said} |"


def manual(commands: Sequence[Command]) -> str:
    """Return the manual page."""
    shared, own = split(commands)
    lines = [".TH SWIFT-SPROUT 1", ".SH NAME", "swift-sprout \\- extension modules for web hosts, made and proven"]
    lines += [".SH SYNOPSIS", ".B swift-sprout", ".I COMMAND", "[options]", ".SH DESCRIPTION", _roff(ABOUT)]
    lines += [".SH COMMANDS"]
    for command in commands:
        lines += [f".SS {command.name}", _roff(f"{command.summary[0].upper()}{command.summary[1:]}.")]
        for one in (*command.arguments, *own[command.name]):
            lines += [".TP", f".B {_roff(one.spelled)}", _roff(one.help)]
        lines += [".PP", ".nf", *(_roff(line) for line in command.more.rstrip().split("\n")), ".fi"]
    lines += [".SH OPTIONS OF EVERY COMMAND"]
    for one in shared:
        lines += [".TP", f".B {_roff(one.spelled)}", _roff(one.help)]
    lines += [".SH EXIT STATUS", _roff(EXIT_STATUS + ".")]
    lines += [".SH ENVIRONMENT", ".TP", ".B NO_COLOR", "No colour.", ".TP", ".B XDG_CACHE_HOME"]
    lines += ["Where results of checks are kept; they may be deleted at any time."]
    return "\n".join(lines) + "\n"


def _roff(text: str) -> str:
    text = text.replace("\\", "\\e").replace("-", "\\-")
    text = "".join(letter if letter.isascii() else f"\\[u{ord(letter):04X}]" for letter in text)
    return re.sub(r"^([.'])", r"\\&\1", text)


if __name__ == "__main__":
    known = described()
    REFERENCE.write_text(reference(known), "utf-8")
    MANUAL.write_text(manual(known), "utf-8")
    print(f"{len(known)} commands")
