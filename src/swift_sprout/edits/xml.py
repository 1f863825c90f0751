"""Edits of XML by position: an element is put into another, everything else stays as it was written."""

from __future__ import annotations

import re
from xml.parsers import expat

from ..core.namedtuples import NamedTuple
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


def add_element(text: str, parent: str, element: str, known_by: str = "id") -> str:
    """Put an element into the last one of a name, as its last child, indented like its neighbours.

    element  -- its source
    known_by -- the attribute by which it is known: a text that holds one of its name and value is returned as it is

    Raises NotCarried.
    """
    wanted = elements(element)[0]
    held = elements(text)
    mark = dict(wanted.attributes).get(known_by)
    if any(one.name == wanted.name and mark and dict(one.attributes).get(known_by) == mark for one in held):
        return text
    places = [index for index, one in enumerate(held) if one.name == parent]
    if not places:
        raise NotCarried(0, f"it has no <{parent}>")
    into = held[places[-1]]
    data = text.encode("utf-8")
    if into.inside < 0:
        line = data.count(b"\n", 0, into.start) + 1
        raise NotCarried(line, f"<{parent}/> is closed at once; open it first")
    children = [one for one in held if one.parent == places[-1]]
    outer = _indent(data, into.start)
    inner = _indent(data, children[-1].start) if children else outer + b"    "
    newline = b"\r\n" if data.count(b"\r\n") * 2 > data.count(b"\n") else b"\n"
    block = newline.join(inner + line.encode("utf-8") for line in element.strip("\n").split("\n"))
    before = data[: into.inside].rstrip(b" \t")
    joint = b"" if before.endswith(b"\n") else newline
    closing = outer if joint or before.endswith(b"\n") else b""
    return (before + joint + block + newline + closing + data[into.inside :]).decode("utf-8")


def _indent(data: bytes, place: int) -> bytes:
    line = data[data.rfind(b"\n", 0, place) + 1 : place]
    return line if not line.strip() else b""
