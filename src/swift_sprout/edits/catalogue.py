"""Putting texts into a gettext catalogue without disturbing what translators wrote."""

from __future__ import annotations

import re

from .carrying import NotCarried


def carry_catalogue(current: str, after: str) -> str:
    """Return a catalogue with the entries of another that it misses.

    A translation that is still empty is filled; no other is changed. Raises NotCarried for one that does not parse.
    """
    import polib

    try:
        here = polib.pofile(as_text(current), wrapwidth=0)
    except OSError as error:
        found = re.search(r"line (\d+)", str(error))
        raise NotCarried(int(found.group(1)) if found else 0, "it is no catalogue that can be read") from None
    known = {(entry.msgctxt, entry.msgid): entry for entry in here}
    added: list[str] = []
    text = current
    for entry in polib.pofile(after, wrapwidth=0):
        held = known.get((entry.msgctxt, entry.msgid))
        if held is None:
            added.append(str(entry).rstrip("\n"))
        elif entry.msgstr and not held.msgstr and not held.obsolete:
            empty, filled = str(held).rstrip("\n"), str(held).rstrip("\n")
            filled = filled.removesuffix('msgstr ""') + str(entry).rstrip("\n").rpartition("\nmsgstr ")[1].lstrip("\n")
            filled += str(entry).rstrip("\n").rpartition("\nmsgstr ")[2]
            text = text.replace(empty + "\n", filled + "\n", 1)
    if added:
        text = text.rstrip("\n") + "\n\n" + "\n\n".join(added) + "\n"
    now = {(entry.msgctxt, entry.msgid): entry for entry in polib.pofile(as_text(text), wrapwidth=0)}
    for key, entry in known.items():
        if key not in now or (entry.msgstr and now[key].msgstr != entry.msgstr):
            raise NotCarried(entry.linenum or 0, "the catalogue is written in a way that cannot be edited safely")
    return text


def as_text(catalogue: str) -> str:
    """Return a catalogue so that it is never taken for the path of one."""
    return catalogue if "\n" in catalogue else catalogue + "\n"


def compiled(source: bytes) -> bytes:
    """Return the compiled form of a catalogue; raises ValueError when it does not parse."""
    import polib

    try:
        return bytes(polib.pofile(as_text(source.decode("utf-8"))).to_binary())
    except (OSError, UnicodeDecodeError) as error:
        raise ValueError(str(error)) from None
