"""XML data files as the host reads them: records, menu entries and what they name, each with its line.

Entities are never resolved: a file that declares any is told as such, and read no further.
"""

from __future__ import annotations

import xml.parsers.expat
from pathlib import Path
from typing import Any, NamedTuple


class DataField(NamedTuple):
    """A field of a record in a data file: ``ref``, ``eval`` and ``search`` as said, ``text`` what stands inside."""

    name: str
    line: int
    text: str
    ref: str
    eval: str
    search: str
    depends: tuple[str, ...]
    pyson: bool


class DataRecord(NamedTuple):
    """A record of a data file; a menu entry is one of ``ir.ui.menu`` with its attributes as fields.

    depends -- modules without which the host passes it over; update -- True for one that only changes another
    language -- the language without which the host passes it over; empty for none
    """

    model: str
    id: str
    line: int
    fields: tuple[DataField, ...]
    depends: tuple[str, ...]
    update: bool
    path: Path
    menuitem: bool = False
    language: str = ""

    def field(self, name: str) -> DataField | None:
        """Return a field by its name, or None."""
        return next((one for one in self.fields if one.name == name), None)

    def text(self, name: str) -> str:
        """Return what stands in a field; empty when it is not there."""
        found = self.field(name)
        return found.text.strip() if found else ""

    def ref(self, name: str) -> str:
        """Return the id that a field refers to; empty when it refers to none."""
        found = self.field(name)
        return found.ref if found else ""


class DataFile:
    """One data file: its records in order. ``broken`` says why it cannot be read; ``entity`` a declared entity."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.records: list[DataRecord] = []
        self.broken: tuple[str, int] | None = None
        self.entity: tuple[str, int] | None = None
        self.root = ""
        self._depends: tuple[str, ...] = ()
        self._language = ""
        self._open: dict[str, Any] | None = None
        self._field: dict[str, Any] | None = None
        try:
            content = path.read_bytes()
        except OSError as error:
            self.broken = (f"it cannot be read: {error.strerror}", 0)
            return
        parser = xml.parsers.expat.ParserCreate()
        self._parser = parser
        parser.StartElementHandler = self._start
        parser.EndElementHandler = self._end
        parser.CharacterDataHandler = self._text
        parser.EntityDeclHandler = self._entity
        parser.ExternalEntityRefHandler = lambda *_: 0
        try:
            parser.Parse(content, True)
        except _Stop:
            pass
        except xml.parsers.expat.ExpatError as error:
            if self.entity is None:
                self.broken = (xml.parsers.expat.ErrorString(error.code), error.lineno)
        del self._parser

    def _entity(self, name: str, *_: object) -> None:
        self.entity = (name, self._parser.CurrentLineNumber)
        raise _Stop

    def _start(self, tag: str, attributes: dict[str, str]) -> None:
        line = self._parser.CurrentLineNumber
        if not self.root:
            self.root = tag
        if tag == "data":
            self._depends = _words(attributes.get("depends", ""))
            self._language = attributes.get("language", "")
        elif tag == "record":
            self._open = {"tag": tag, "attributes": attributes, "line": line, "fields": []}
        elif tag == "menuitem":
            fields = [
                DataField(
                    name,
                    line,
                    value if name not in ("parent", "action") else "",
                    value if name in ("parent", "action") else "",
                    "",
                    "",
                    (),
                    False,
                )
                for name, value in attributes.items()
                if name != "id"
            ]
            identity = attributes.get("id", "")
            record = DataRecord(
                "ir.ui.menu", identity, line, tuple(fields), self._depends, False, self.path, True, self._language
            )
            self.records.append(record)
        elif tag == "field" and self._open is not None:
            self._field = {"attributes": attributes, "line": line, "text": []}

    def _text(self, text: str) -> None:
        if self._field is not None:
            self._field["text"].append(text)

    def _end(self, tag: str) -> None:
        if tag == "field" and self._field is not None and self._open is not None:
            said = self._field["attributes"]
            self._open["fields"].append(
                DataField(
                    said.get("name", ""),
                    self._field["line"],
                    "".join(self._field["text"]),
                    said.get("ref", ""),
                    said.get("eval", ""),
                    said.get("search", ""),
                    _words(said.get("depends", "")),
                    said.get("pyson", "0") == "1",
                )
            )
            self._field = None
        elif tag == "record" and self._open is not None:
            said = self._open["attributes"]
            self.records.append(
                DataRecord(
                    said.get("model", ""),
                    said.get("id", ""),
                    self._open["line"],
                    tuple(self._open["fields"]),
                    self._depends,
                    said.get("update", "0") == "1",
                    self.path,
                    language=self._language,
                )
            )
            self._open = None


class _Stop(Exception):
    """An entity was declared: nothing more of the file is read."""


def _words(text: str) -> tuple[str, ...]:
    return tuple(word.strip() for word in text.split(",") if word.strip()) if text else ()


class Element(NamedTuple):
    """An element of a view file: its tag, name and line."""

    tag: str
    name: str
    line: int
    attributes: dict[str, str]


class ViewFile:
    """A view file: its root's tag and its elements that name something; ``broken`` says why it cannot be read."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.root = ""
        self.elements: list[Element] = []
        self.broken: tuple[str, int] | None = None
        parser = xml.parsers.expat.ParserCreate()
        self._depth_of_field = 0

        def start(tag: str, attributes: dict[str, str]) -> None:
            if not self.root:
                self.root = tag
            elif self._depth_of_field == 0:
                self.elements.append(Element(tag, attributes.get("name", ""), parser.CurrentLineNumber, attributes))
            if tag == "field" or self._depth_of_field:
                self._depth_of_field += 1  # what stands inside a field is a view of another model

        def end(tag: str) -> None:
            if self._depth_of_field:
                self._depth_of_field -= 1

        parser.StartElementHandler = start
        parser.EndElementHandler = end
        parser.EntityDeclHandler = self._refuse
        parser.ExternalEntityRefHandler = lambda *_: 0
        try:
            parser.Parse(path.read_bytes(), True)
        except OSError as error:
            self.broken = (f"it cannot be read: {error.strerror}", 0)
        except _Stop:
            self.broken = ("it declares an entity, which is not resolved", parser.CurrentLineNumber)
        except xml.parsers.expat.ExpatError as error:
            self.broken = (xml.parsers.expat.ErrorString(error.code), error.lineno)

    def _refuse(self, *_: object) -> None:
        raise _Stop
