"""A folder for the time of one check: in memory where the system has room there, gone afterwards.

All scratch folders of a user lie in one folder of that user. Each is held by a lock as long as its run, or a program
that it started, is there: what nobody holds was left behind by a killed run, and the next command takes it away.
"""

from __future__ import annotations

import fcntl
import os
import secrets
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from .inherited import kept_open

IN_MEMORY = Path("/dev/shm")
VARIABLE = "SWIFT_SPROUT_SCRATCH"
RUN = "run-"
KEPT = ".kept"
ROOM_BYTES = 512 * 1024 * 1024  # that must be free in memory: containers often have 64 MB there in all


@contextmanager
def scratch_folder(keep: bool = False, on_disk: bool = False) -> Iterator[Path]:
    """Make a folder that only this user can read, and remove it with all it holds at the end.

    keep -- leave it; on_disk -- not in memory, for what may be large
    """
    run, lock = _new(_base(on_disk))
    if keep:
        (run / KEPT).touch()
    folder = run / "in"  # whoever works in it may lock it as well
    folder.mkdir(mode=0o700)
    try:
        with kept_open(lock):
            yield folder
    finally:
        if not keep:
            shutil.rmtree(run, ignore_errors=True)
        os.close(lock)


def remove_left_behind() -> None:
    """Remove folders of this user's runs that were killed before they could do it themselves; kept ones stay."""
    for base in {_own(IN_MEMORY), _own(_disk())}:
        try:
            names = [name for name in os.listdir(base) if name.startswith(RUN)] if _is_own(base) else []
        except OSError:
            continue
        for name in names:
            _remove_unheld(base / name)


def _remove_unheld(folder: Path) -> None:
    """Remove a folder that nobody holds."""
    try:
        lock = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_NOFOLLOW | os.O_CLOEXEC)
    except OSError:
        return
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        if not (folder / KEPT).exists():
            shutil.rmtree(folder, ignore_errors=True)
    except OSError:
        pass  # somebody holds it
    finally:
        os.close(lock)


def _new(base: Path) -> tuple[Path, int]:
    """Make a folder, and hold it; between both, another command may take it for one that was left behind."""
    while True:
        folder = base / f"{RUN}{secrets.token_hex(6)}"
        folder.mkdir(mode=0o700)
        try:
            lock = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
        except FileNotFoundError:
            continue
        fcntl.flock(lock, fcntl.LOCK_EX)
        if folder.is_dir() and os.path.samestat(os.fstat(lock), os.stat(folder)):
            return folder, lock
        os.close(lock)


def _base(on_disk: bool) -> Path:
    """Return the folder of this user in which scratch folders are made."""
    for place in ([] if on_disk or not _has_room(IN_MEMORY) else [IN_MEMORY], [_disk()]):
        for one in place:
            base = _own(one)
            try:
                base.mkdir(mode=0o700, parents=True, exist_ok=True)
            except OSError:
                continue
            if _is_own(base):
                return base
    return Path(tempfile.mkdtemp(prefix="swift-sprout-"))  # somebody else has taken the name


def _own(place: Path) -> Path:
    named = os.environ.get(VARIABLE, "")
    return Path(named) / "scratch" if os.path.isabs(named) else place / f"swift-sprout-{os.geteuid()}"


def _disk() -> Path:
    return Path(os.environ.get("TMPDIR") or "/tmp")


def _is_own(base: Path) -> bool:
    """True for a folder that is this user's alone, and no link."""
    try:
        told = os.lstat(base)
    except OSError:
        return False
    return not os.path.islink(base) and told.st_uid == os.geteuid() and not told.st_mode & 0o077


def _has_room(place: Path) -> bool:
    try:
        told = os.statvfs(place)
    except OSError:
        return False
    return os.access(place, os.W_OK) and told.f_bavail * told.f_frsize >= ROOM_BYTES
