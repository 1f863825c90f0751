"""The text of a file with all that must survive an edit: encoding, byte-order mark, line ends."""

from __future__ import annotations

import codecs
import io
from typing import NamedTuple


class SourceText(NamedTuple):
    """A decoded file; ``text`` keeps the line ends of the file.

    newline -- the line end that new lines get, the one the file uses most
    """

    text: str
    encoding: str = "utf-8"
    bom: bool = False
    newline: str = "\n"

    @classmethod
    def python(cls, content: bytes) -> SourceText:
        """Decode Python source by its declared encoding; raises SyntaxError or UnicodeDecodeError as Python does."""
        bom = content.startswith(codecs.BOM_UTF8)
        encoding = "utf-8"
        if b"coding" in content[:400]:  # perhaps declared: asking costs much more than decoding
            import tokenize

            encoding, _ = tokenize.detect_encoding(io.BytesIO(content).readline)
        plain = content[len(codecs.BOM_UTF8) :] if bom else content
        encoding = "utf-8" if encoding == "utf-8-sig" else encoding
        text = plain.decode(encoding)
        return cls(text, encoding, bom, _line_end(text))

    @classmethod
    def plain(cls, content: bytes) -> SourceText:
        """Decode a text that says nothing of its encoding: UTF-8, with or without a byte-order mark, else Latin-1."""
        bom = content.startswith(codecs.BOM_UTF8)
        try:
            text, encoding = content[len(codecs.BOM_UTF8) if bom else 0 :].decode("utf-8"), "utf-8"
        except UnicodeDecodeError:
            text, encoding = content.decode("latin-1"), "latin-1"
        return cls(text, encoding, bom, _line_end(text))

    @classmethod
    def of(cls, path: str, content: bytes) -> SourceText:
        """Decode a file as its syntax does, by the ending of its path; raises as ``python`` does."""
        return cls.python(content) if path.endswith(".py") else cls.plain(content)

    def with_text(self, text: str) -> SourceText:
        """Return the same file with another text."""
        return self._replace(text=text)

    def content(self) -> bytes:
        """Encode the text as the file was; raises UnicodeEncodeError when its encoding has not all letters."""
        return (codecs.BOM_UTF8 if self.bom else b"") + self.text.encode(self.encoding)


def _line_end(text: str) -> str:
    """Return the line end that a text uses most."""
    return "\r\n" if "\r" in text and text.count("\r\n") * 2 > text.count("\n") else "\n"
