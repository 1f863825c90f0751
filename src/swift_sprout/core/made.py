"""What was generated last, kept beside the brief, so that a later run can tell it from what people wrote since.

The file ``sprout.made`` is plain lines, one for each generated file: its path in the module's folder and its content,
packed. It belongs with the project's files: it is all that a refresh on another machine needs.
"""

from __future__ import annotations

import binascii
import zlib
from pathlib import PurePosixPath
from typing import NamedTuple

from .. import __version__
from .errors import Refused
from .lines import plain_lines

MADE_FILE = "sprout.made"
FORMAT = "swift-sprout/made/1"
LARGEST_BYTES = 20_000_000
SMALL = (12, 4)  # window and memory of the packing: source files are small, and larger ones cost more to set up


class Made(NamedTuple):
    """The files of a module as they were generated: path below its folder, and content.

    kit     -- who made them, and version -- with which version of this tool
    adopted -- True for a module that was made by hand: what it lacked then is not made later
    """

    kit: str
    files: dict[str, bytes]
    version: str = __version__
    adopted: bool = False

    @classmethod
    def of(cls, kit: str, files: dict[str, bytes]) -> Made:
        """Keep what was generated."""
        return cls(kit, dict(files))

    @classmethod
    def read(cls, content: bytes, place: str) -> Made:
        """Read the file; raises Refused, naming the line, when it is broken."""
        lines = [line.rstrip("\n").rstrip("\r") for line in plain_lines(content.decode("utf-8", "replace"))]
        head = lines[0].split() if lines else []
        if len(head) not in (3, 4) or head[0] != FORMAT or head[3:] not in ([], ["adopted"]):
            raise _broken(place, 1, f"it does not begin with {FORMAT}")
        files: dict[str, bytes] = {}
        for number, line in enumerate(lines[1:], 2):
            path, tab, packed = line.partition("\t")
            parts = PurePosixPath(path).parts
            if not tab or not parts or path.startswith("/") or ".." in parts:
                raise _broken(place, number, "it names no file of the module")
            try:
                unpack = zlib.decompressobj()
                files[path] = unpack.decompress(
                    binascii.a2b_base64(packed.encode("ascii"), strict_mode=True), LARGEST_BYTES
                )
            except (ValueError, zlib.error, UnicodeEncodeError):
                raise _broken(place, number, "its content cannot be unpacked") from None
        return cls(head[1], files, head[2], len(head) == 4)

    def content(self) -> bytes:
        """Return the bytes of the file."""
        lines = [f"{FORMAT} {self.kit} {self.version}{' adopted' if self.adopted else ''}".encode()]
        for path in sorted(self.files):
            packing = zlib.compressobj(1, zlib.DEFLATED, *SMALL)
            packed = binascii.b2a_base64(packing.compress(self.files[path]) + packing.flush(), newline=False)
            lines.append(path.encode("utf-8") + b"\t" + packed)
        return b"\n".join(lines) + b"\n"


def _broken(place: str, line: int, reason: str) -> Refused:
    return Refused(
        "made-broken",
        f"{place}:{line}: {reason}; nothing was changed.",
        "Take the file back from your version control; without it a refresh has nothing to compare with.",
    )
