"""Archives on disk: the same files give the same bytes, and what was written is read again and compared."""

from __future__ import annotations

import os
import stat
import zipfile
from collections.abc import Mapping
from io import BytesIO
from pathlib import Path

from ..core.archives import Entry, too_much
from ..core.errors import Refused, WrongUse

_MOMENT = (1980, 1, 1, 0, 0, 0)  # the earliest that the form knows: when it was packed is no part of it


def packed(folder: str, files: Mapping[str, bytes]) -> bytes:
    """Return an archive of files below one folder."""
    held = BytesIO()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED, compresslevel=9) as archive:
        for path in sorted(files):
            entry = zipfile.ZipInfo(f"{folder}/{path}", _MOMENT)
            entry.external_attr = (stat.S_IFREG | 0o644) << 16
            entry.compress_type = zipfile.ZIP_DEFLATED
            archive.writestr(entry, files[path])
    return held.getvalue()


def write_new(path: Path, content: bytes) -> bool:
    """Write a file that is not there yet; returns False when it is there with the same content.

    Raises Refused for a file with another content, and where it cannot be written.
    """
    try:
        if path.exists():
            if path.is_file() and path.read_bytes() == content:
                return False
            raise Refused(
                "file-there",
                f"{path} is there already with another content; it was not touched.",
                "Name another: --to FILE.",
            )
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(content)
    except OSError as error:
        raise Refused(
            "cannot-write", f"{path} cannot be written: {error.strerror}.", "Name another: --to FILE."
        ) from None
    return True


def entries_of(path: Path) -> list[Entry]:
    """Return the entries of an archive; raises WrongUse for a file that is none, or is damaged."""
    try:
        if not stat.S_ISREG(os.stat(path).st_mode):
            raise WrongUse("archive-damaged", f"{path} is no plain file.", "Name the archive.")
        with zipfile.ZipFile(path) as archive:
            entries = [
                Entry(one.orig_filename, one.file_size, stat.S_ISLNK(one.external_attr >> 16))
                for one in archive.infolist()
            ]
            if too_much(entries):
                return entries  # refused by its size; nothing is unpacked to look whether it is whole
            damaged = archive.testzip()
            if damaged is not None:
                raise WrongUse("archive-damaged", f"{path}: {damaged} is damaged.", "Pack it or fetch it again.")
            return entries
    except FileNotFoundError:
        raise WrongUse("archive-absent", f"{path}: there is no such file.", "Name the archive.") from None
    except (OSError, zipfile.BadZipFile, RuntimeError, NotImplementedError) as error:
        raise WrongUse(
            "archive-damaged", f"{path} is no archive that can be read: {error}.", "Pack it again."
        ) from None
