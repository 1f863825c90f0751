"""Edits of INI files with comments and layout kept."""

from __future__ import annotations

import configparser
from collections.abc import Callable

from ..core.lines import plain_lines
from .carrying import NotCarried


def _proven(text: str, result: str, section: str, option: str, meant: Callable[[list[str]], list[str]]) -> str:
    """Return the result of an edit in which one option is as it is meant to be, and every other as it was."""
    expected = _lists(text)
    key = (section, option.lower())
    expected[key] = meant(expected.get(key, []))
    if result != text and _lists(result) != expected:
        raise NotCarried(0, f"{option} under [{section}] is written in a way that cannot be edited safely")
    return result


def add_line(text: str, section: str, option: str, line: str) -> str:
    """Add a line to an option that holds one value a line; a line that is there is not added again.

    Raises NotCarried where more than that would change.
    """
    return _proven(text, _with_line(text, section, option, line), section, option, lambda was: [*was, line])


def _with_line(text: str, section: str, option: str, line: str) -> str:
    config = _read(text)
    if not config.has_option(section, option):
        if not config.has_section(section):
            config.add_section(section)
        config.set(section, option)
        config[section][option].set_values([line])
        return str(config)
    held = [one for one in (config.get(section, option).value or "").split("\n") if one.strip()]
    if line in (one.strip() for one in held):
        return text
    last = held[-1] if held else ""
    lines = plain_lines(text)
    at = _line_of(lines, section, option, last)
    indent = lines[at][: len(lines[at]) - len(lines[at].lstrip())]
    if not indent:
        return _spread(config, section, option, [*held, line])
    newline = "\r\n" if lines[at].endswith("\r\n") else "\n"
    if not lines[at].endswith("\n"):
        lines[at] += newline
    lines.insert(at + 1, indent + line + newline)
    return "".join(lines)


def _spread(config: object, section: str, option: str, values: list[str]) -> str:
    config[section][option].set_values([one.strip() for one in values])  # type: ignore[index]
    return str(config)


def _line_of(lines: list[str], section: str, option: str, last: str) -> int:
    inside, found = False, 0
    started = False
    for number, line in enumerate(lines):
        plain = line.strip()
        if plain.startswith("["):
            inside, started = plain == f"[{section}]", False
        elif inside and plain.replace(" ", "").lower().startswith((f"{option.lower()}=", f"{option.lower()}:")):
            started = True
        if inside and started and last.strip() and plain.endswith(last.strip()):
            found = number
            break
    return found


def _read(text: str):  # type: ignore[no-untyped-def]
    from configupdater import ConfigUpdater

    config = ConfigUpdater()
    try:
        config.read_string(text)
    except configparser.Error as error:
        line = getattr(error, "lineno", 0) or next((number for number, _ in getattr(error, "errors", [])), 0)
        raise NotCarried(line, f"it is not INI: {str(error).partition(chr(10))[0]}") from None
    return config


def carry_ini(current: str, before: str, after: str) -> str:
    """Carry a change of generated text into an INI file: lines of lists by line, single values where they were left.

    Raises NotCarried when a value that changes was changed here as well.
    """
    old, new, here = (_lists(text) for text in (before, after, current))
    found = current
    expected = dict(here)
    for section, option in {**old, **new}:
        was, wanted, now = (one.get((section, option), []) for one in (old, new, here))
        if was == wanted or now == wanted:
            continue
        gone = {line for line in was if line not in wanted}
        added = [line for line in wanted if line not in was and line not in now]
        expected[section, option] = (
            wanted if len(was) == len(wanted) == 1 else [*(one for one in now if one not in gone), *added]
        )
        if len(was) == len(wanted) == 1:
            if now != was:
                raise NotCarried(0, f"{option} under [{section}] was changed here as well")
            config = _read(found)
            config.set(section, option, wanted[0])
            found = str(config)
            continue
        for line in wanted:
            if line not in was and line not in now:
                later = [one for one in wanted[wanted.index(line) + 1 :] if one in now]
                found = _put_before(found, section, option, line, later[0] if later else "")
        found = _without(found, section, option, gone)
    if {key: sorted(one) for key, one in _lists(found).items()} != {key: sorted(one) for key, one in expected.items()}:
        raise NotCarried(0, "it is written in a way that cannot be edited safely")
    return found


def _put_before(text: str, section: str, option: str, line: str, other: str) -> str:
    """Add a line to a list before another one that stands there, so that the order of what is made stays; or last."""
    lines = plain_lines(text)
    at = _line_of(lines, section, option, other) if other else 0
    if not other or not lines[at][:1].isspace() or lines[at].strip() != other:
        return add_line(text, section, option, line)
    indent = lines[at][: len(lines[at]) - len(lines[at].lstrip())]
    lines.insert(at, indent + line + ("\r\n" if lines[at].endswith("\r\n") else "\n"))
    return "".join(lines)


def _lists(text: str) -> dict[tuple[str, str], list[str]]:
    config = _read(text)
    return {
        (section.name, option): [line.strip() for line in (item.value or "").split("\n") if line.strip()]
        for section in config.iter_sections()
        for option, item in section.items()
    }


def _without(text: str, section: str, option: str, gone: set[str]) -> str:
    """Take lines out of an option that holds one value a line; those that stand behind its name stay."""
    lines = plain_lines(text)
    inside = started = False
    kept = []
    for line in lines:
        plain = line.strip()
        if plain.startswith("["):
            inside, started = plain == f"[{section}]", False
        elif plain and not line[:1].isspace():
            started = inside and plain.replace(" ", "").lower().startswith((f"{option.lower()}=", f"{option.lower()}:"))
        elif started and plain in gone:
            continue
        kept.append(line)
    return "".join(kept)
