"""Whether code does more than work on what a check keeps apart: files, programs, and machines elsewhere."""

from __future__ import annotations

import re
from collections.abc import Iterable
from pathlib import Path

from ...disk.guard import read_content

_REACHES_OUT = re.compile(
    rb"\b(?:subprocess|shutil|socket|paramiko|ftplib|smtplib|boto3|docker|zipfile|tarfile)\b"
    rb"|\bos\.(?:remove|unlink|rename|replace|rmdir|removedirs|mkdir|makedirs|system|popen|exec\w*|spawn\w*|kill|truncate)\b"
    rb"|\.(?:write_text|write_bytes|unlink|rmdir|touch)\("
    rb"|\bopen\([^)\n]*[\"'][rb]*[wax+]"
)
_ASIDE = ("tests", "migrations", "management", "node_modules")


def reaches_out(files: Iterable[Path]) -> bool:
    """True where code may do what nothing takes back: what is tried on copies of databases is not tried with it."""
    for path in files:
        if any(part in _ASIDE for part in path.parts) or path.name.startswith("test"):
            continue
        try:
            if _REACHES_OUT.search(read_content(str(path))):
                return True
        except OSError:
            continue
    return False
