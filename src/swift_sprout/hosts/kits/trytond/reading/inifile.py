"""INI files as the host reads them, with the line of everything: ``tryton.cfg``, ``trytond.conf``, entry points."""

from __future__ import annotations

import configparser
from pathlib import Path
from typing import NamedTuple


class Item(NamedTuple):
    """One line of a value, and its line in the file."""

    text: str
    line: int


class IniFile:
    """One file: its values by section and option, each as lines; ``broken`` says why it cannot be read, with a line.

    raw -- True for files in which ``%`` has no meaning of its own
    """

    def __init__(self, path: Path, raw: bool = False) -> None:
        self.path = path
        self.broken: Item | None = None
        self.sections: dict[str, dict[str, list[Item]]] = {}
        self.section_lines: dict[str, int] = {}
        self.option_lines: dict[tuple[str, str], int] = {}
        try:
            text = path.read_text("utf-8")
        except OSError as error:
            self.broken = Item(f"it cannot be read: {error.strerror}", 0)
            return
        except UnicodeDecodeError:
            self.broken = Item("it is not UTF-8", 1)
            return
        parser = configparser.ConfigParser(interpolation=None if raw else configparser.BasicInterpolation())
        parser.optionxform = lambda option: option  # type: ignore[assignment,method-assign]
        try:
            parser.read_string(text)
            for section in parser.sections():
                parser.items(section)
        except configparser.Error as error:
            line = getattr(error, "lineno", None) or (getattr(error, "errors", None) or [(1, "")])[0][0]
            self.broken = Item(" ".join(str(error).split()), int(line))
            return
        self._place(parser, text.splitlines())

    def _place(self, parser: configparser.ConfigParser, lines: list[str]) -> None:
        """Tell the lines: a section's values stand behind its head, an option's further lines are indented."""
        current: dict[str, list[Item]] = {}
        option: list[Item] | None = None
        section = ""
        for number, line in enumerate(lines, 1):
            bare = line.strip()
            if not bare or bare.startswith(("#", ";")):
                continue
            if bare.startswith("[") and bare.endswith("]") and not line[0].isspace():
                section = bare[1:-1]
                current = self.sections.setdefault(section, {})
                self.section_lines.setdefault(bare[1:-1], number)
                option = None
            elif line[0].isspace() and option is not None:
                option.append(Item(bare, number))
            else:
                cut = min((at for at in (bare.find("="), bare.find(":")) if at >= 0), default=len(bare))
                value = bare[cut + 1 :].strip()
                self.option_lines.setdefault((section, bare[:cut].strip()), number)
                option = current.setdefault(bare[:cut].strip(), [])
                if value:
                    option.append(Item(value, number))

    def option_line(self, section: str, option: str) -> int:
        """Return the line of an option; 0 where it is not there."""
        return self.option_lines.get((section, option), 0)

    def lines(self, section: str, option: str) -> list[Item]:
        """Return the lines of a value; none when it is not there."""
        return self.sections.get(section, {}).get(option, [])

    def first(self, section: str, option: str) -> Item | None:
        """Return the first line of a value, or None."""
        return next(iter(self.lines(section, option)), None)

    def text(self, section: str, option: str) -> str:
        """Return the first line of a value as text; empty when it is not there."""
        found = self.first(section, option)
        return found.text if found else ""
