"""Where the state of the program lies: in the user's own state folder, a folder for each host, never in the host's.

What lies in a host's folder may come from anybody, and is never taken for state of ours.
"""

from __future__ import annotations

import os
import stat
import time
from pathlib import Path

from .digests import short_digest_of

VARIABLE = "SWIFT_SPROUT_STATE"
MARK = ".swift-sprout-unfinished"
LONGEST_MARK_BYTES = 200


def state_folder() -> Path:
    """Return the folder for all state of this user; what a link leads to there is followed here, and nowhere below."""
    named = os.environ.get(VARIABLE, "")
    if os.path.isabs(named):
        return Path(os.path.realpath(named))
    said = os.environ.get("XDG_STATE_HOME", "")
    base = said if os.path.isabs(said) else os.path.expanduser("~/.local/state")
    return Path(os.path.realpath(base)) / "swift-sprout"


def host_folders(root: Path) -> tuple[Path, tuple[str, str]]:
    """Return the base of all state, and the names below it that lead to the state of one host.

    A host is known by its whole path: one that was moved or copied has none of the state of where it was.
    """
    whole = os.path.realpath(root)
    plain = "".join(letter if letter.isascii() and letter.isalnum() else "-" for letter in os.path.basename(whole))
    return state_folder(), ("hosts", f"{plain[:40]}-{short_digest_of(os.fsencode(whole))[:20]}")


# -- the mark in the host's folder -----------------------------------------------------------------------------------


def put_mark(root: str | Path, title: str) -> None:
    """Leave a sentence in the host's folder for other users, while a change set is applied; where it cannot be, none.

    It tells, and nothing more: no run ever does what such a file says.
    """
    path = _own_mark(root)
    when = time.strftime("%Y-%m-%d %H:%M:%S")
    try:
        take_mark(root)
        descriptor = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_NOFOLLOW, 0o644)
        with os.fdopen(descriptor, "wb") as handle:
            handle.write(f"{title}, begun {when} by process {os.getpid()}\n".encode("utf-8", "replace"))
    except OSError:
        pass


def take_mark(root: str | Path) -> None:
    """Take the own mark away."""
    try:
        os.unlink(_own_mark(root))
    except OSError:
        pass


def _own_mark(root: str | Path) -> str:
    return os.path.join(root, f"{MARK}.{os.geteuid()}")


def marks_of_others(root: Path) -> list[str]:
    """Return what the marks of other users say, one sentence each: to be shown, not to be believed."""
    told = []
    try:
        names = [name for name in os.listdir(root) if name.startswith(MARK + ".")]
    except OSError:
        return []
    for name in sorted(names)[:5]:
        try:
            descriptor = os.open(root / name, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK)
            with os.fdopen(descriptor, "rb") as handle:
                facts = os.fstat(descriptor)
                if not stat.S_ISREG(facts.st_mode) or facts.st_uid == os.geteuid():
                    continue
                text = handle.read(LONGEST_MARK_BYTES).decode("utf-8", "replace")
        except OSError:
            continue
        said = "".join(letter if letter.isprintable() else "·" for letter in text.strip())
        told.append(f"{name}, written by user {facts.st_uid}, says: {said!r}")
    return told
