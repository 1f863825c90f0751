"""Where the elements of an XML text stand, so that it can be edited by position and all else stays as it was."""

from __future__ import annotations

import re
from typing import NamedTuple
from xml.parsers import expat

from .carrying import NotCarried

_TAG = re.compile(rb"<(?:[^>\"']|\"[^\"]*\"|'[^']*')*>")


class Element(NamedTuple):
    """Where an element stands, in bytes of the UTF-8 form: ``inside`` is the place before its end tag, or -1."""

    name: str
    attributes: tuple[tuple[str, str], ...]
    start: int
    inside: int
    depth: int
    parent: int


def elements(text: str) -> list[Element]:
    """Return the elements of a text in order; raises NotCarried, naming the line, when it does not parse.

    Entities of other files are never read, and a text that declares its own is refused.
    """
    found: list[Element] = []
    open_ones: list[int] = []
    data = text.encode("utf-8")
    parser = expat.ParserCreate("utf-8")

    def begin(name: str, attributes: dict[str, str]) -> None:
        parent = open_ones[-1] if open_ones else -1
        open_ones.append(len(found))
        found.append(Element(name, tuple(attributes.items()), parser.CurrentByteIndex, -1, len(open_ones) - 1, parent))

    def finish(name: str) -> None:
        index = open_ones.pop()
        opening = _TAG.match(data, found[index].start)
        closed_at_once = opening is not None and opening.group().endswith(b"/>")
        inside = -1 if closed_at_once else parser.CurrentByteIndex
        found[index] = found[index]._replace(inside=inside)

    def declared(*_: object) -> None:
        raise NotCarried(parser.CurrentLineNumber, "it declares entities of its own, which are not read")

    parser.StartElementHandler = begin
    parser.EndElementHandler = finish
    parser.EntityDeclHandler = declared
    try:
        parser.Parse(data, True)
    except expat.ExpatError as error:
        raise NotCarried(error.lineno, f"it is not XML: {expat.ErrorString(error.code)}") from None
    return found
