"""The host's database: what its configuration says, and the server of its own that a host may bring along."""

from __future__ import annotations

import fcntl
import getpass
import os
import re
import shutil
import signal
import socket
import subprocess
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

from ....core.errors import HostFailed
from ....disk.private import private_folder
from ....disk.state import host_folders
from ....running import process

OWN_SERVER = "database/mariadb.cnf"
OPTIONS = Path(__file__).parent / "server.cnf"
LET_GO_SECONDS = 10.0  # until what a killed program had started has let go of its lock
LONGEST_SOCKET = 106  # bytes in the address of a socket on Linux
PACKAGE = "mariadb-server-core"
#  what a data folder was made with, and is not read without (MariaDB 10.11); nothing else of a host's own file counts
_OF_DATA = re.compile(
    r"^[ \t]*(innodb[-_](?:page[-_]size|log[-_]file[-_]size|data[-_]file[-_]path|temp[-_]data[-_]file[-_]path"
    r"|autoextend[-_]increment|undo[-_]tablespaces)|lower[-_]case[-_]table[-_]names)[ \t]*=[ \t]*([\w.:;]+)[ \t]*$",
    re.MULTILINE,
)
_CHILDREN: dict[str, subprocess.Popen[bytes]] = {}  # those that this program has started, by their folders
_STARTED_BY: dict[str, int] = {}  # which program used a server: this one, or the one that it is a copy of
_IN_USE: dict[str, int] = {}  # the descriptors by which this program tells others that it uses a server


class Server(NamedTuple):
    """A database server of one host alone, that listens on a socket in a folder.

    folder  -- where its data lie, and its socket
    runtime -- where notes of the running server lie: a private folder, for what is read there is acted on
    options -- its options in MariaDB's own form, and further ones as words of the command line
    """

    folder: Path
    runtime: Path
    options_file: Path = OPTIONS
    options: tuple[str, ...] = ()

    @property
    def socket(self) -> Path:
        """Where it listens."""
        return self.folder / "socket"

    @property
    def data(self) -> Path:
        """Where its data lie."""
        return self.folder / "data"

    def answers(self) -> bool:
        """True when it listens."""
        with socket.socket(socket.AF_UNIX) as probe:
            try:
                probe.connect(str(self.socket))
            except OSError:
                return False
        return True

    def command(self, *more: str) -> list[str]:
        """Return the command line of the server."""
        return [
            program(),
            f"--defaults-file={self.options_file}",
            f"--datadir={self.data}",
            f"--socket={self.socket}",
            f"--pid-file={self.runtime / 'server.pid'}",
            "--user=" + _user(),
            *self.options,
            *more,
        ]

    def create(self, database: str) -> None:
        """Make the data folder with an empty database; raises HostFailed."""
        self.data.mkdir(mode=0o700, parents=True)
        statement = f"CREATE DATABASE `{database}` CHARACTER SET utf8mb4;\n"
        made = subprocess.run(
            self.command("--bootstrap"), input=statement.encode(), capture_output=True, timeout=120, check=False
        )
        if made.returncode != 0:
            raise HostFailed(
                "database-not-made",
                f"MariaDB made no database in {self.data}: {_last(made.stderr)}",
                "Look at the folder's rights and space.",
            )

    def start(self, limit_seconds: float) -> None:
        """Start it where it does not listen already; raises HostFailed.

        It ends with the last of the programs that use it, and only if one of them has started it.
        """
        if len(str(self.socket).encode()) > LONGEST_SOCKET:
            raise HostFailed(
                "database-down",
                f"The path of the database's socket is too long for this system: {self.socket}",
                "Move the host to a folder with a shorter path.",
            )
        with self._alone():
            self._use()
            process.at_end(str(self.runtime), self._let_go)
            if not self.answers():
                self._start(limit_seconds)

    def _let_go(self) -> None:
        """End it as ``stop`` does; in the copy of this program that watches, what this one holds open is closed."""
        if os.getpid() == _STARTED_BY.get(str(self.runtime), os.getpid()):
            self.stop()
            return
        _IN_USE.clear()
        _CHILDREN.clear()
        deadline = time.monotonic() + LET_GO_SECONDS  # what this one started may hold its lock until it ends as well
        while not self.stop() and time.monotonic() < deadline:
            time.sleep(0.05)

    def _use(self) -> None:
        """Tell other programs that this one uses the server, for as long as it lives: by a lock that they share."""
        key = str(self.runtime)
        _STARTED_BY[key] = os.getpid()
        if key not in _IN_USE:
            _IN_USE[key] = os.open(
                self.runtime / "in-use", os.O_RDWR | os.O_CREAT | os.O_NOFOLLOW | os.O_CLOEXEC, 0o600
            )
        fcntl.flock(_IN_USE[key], fcntl.LOCK_SH)

    def _used_by_others(self) -> bool:
        """Let go of the server, and tell whether another program uses it."""
        mine = _IN_USE.pop(str(self.runtime), None)
        if mine is not None:
            fcntl.flock(mine, fcntl.LOCK_UN)  # copies of this process have it open as well
            os.close(mine)
        descriptor = os.open(self.runtime / "in-use", os.O_RDWR | os.O_CREAT | os.O_NOFOLLOW | os.O_CLOEXEC, 0o600)
        try:
            fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            return True
        finally:
            os.close(descriptor)
        return False

    def _start(self, limit_seconds: float) -> None:
        log = self.runtime / "server.log"
        with log.open("wb") as written:
            started = process.start(self.command(), self.folder, stdout=written.fileno(), keeps_locks=False)
        _CHILDREN[str(self.folder)] = started
        self._started_here.touch(0o600)
        self._started_here.write_text(str(started.pid))
        deadline = time.monotonic() + limit_seconds
        while time.monotonic() < deadline and started.poll() is None:
            if self.answers():
                return
            time.sleep(0.01)
        process.end(started, 20)
        self._started_here.unlink(missing_ok=True)
        raise HostFailed(
            "database-down",
            f"The host's own database server does not start: {_last(log.read_bytes())}",
            f"Its data lie in {self.data}; another server may hold them.",
        )

    def stop(self) -> bool:
        """Let it go: end it, when no other program uses it and it was started for one; False while one uses it."""
        child = _CHILDREN.pop(str(self.folder), None)
        if not self.runtime.is_dir():
            _IN_USE.pop(str(self.runtime), None)
            if child is not None:  # its folder has gone already, as a sandbox's does
                process.end(child)
            return True
        with self._alone():
            if self._used_by_others():
                return False
            if self._started_here.exists():
                self._end()
                self._started_here.unlink()
                if child is not None:
                    process.end(child, 20)
        return True

    def _end(self) -> None:
        try:
            number = int(self._started_here.read_text() or (self.runtime / "server.pid").read_text())
            words = Path("/proc", str(number), "cmdline").read_bytes().split(b"\0")
        except (OSError, ValueError):
            return
        if f"--datadir={self.data}".encode() not in words:
            return  # the number belongs to another program by now
        for sort in (signal.SIGTERM, signal.SIGKILL):
            try:
                os.kill(number, sort)
            except (ProcessLookupError, PermissionError):
                return
            deadline = time.monotonic() + 20
            while time.monotonic() < deadline:
                if not _runs(number):
                    return
                time.sleep(0.01)

    @property
    def _started_here(self) -> Path:
        return self.runtime / "started-for-a-command"

    @contextmanager
    def _alone(self) -> Iterator[None]:
        """Keep other programs from starting or ending it meanwhile."""
        try:
            held = os.open(self.runtime, os.O_RDONLY | os.O_CLOEXEC)
        except OSError:  # the host has gone
            yield
            return
        try:
            fcntl.flock(held, fcntl.LOCK_EX)
            yield
        finally:
            os.close(held)


def _runs(number: int) -> bool:
    """True while a process runs; one that has ended and was not yet asked for how is over."""
    try:
        os.waitpid(number, os.WNOHANG)
    except ChildProcessError:
        pass
    try:
        text = Path("/proc", str(number), "stat").read_text()
    except OSError:
        return False
    return text.rpartition(")")[2].split()[0] != "Z"


def brings_server(root: Path) -> bool:
    """True for a host that brings a database server of its own."""
    return (root / OWN_SERVER).is_file()


def own_server(root: Path) -> Server | None:
    """Return the server that a host brings along; None for a host whose database is somebody else's work.

    Raises Refused or OSError where the user's own state folder, in which notes of it lie, cannot be used.
    """
    file = root / OWN_SERVER
    if not file.is_file():
        return None
    base, below = host_folders(root)
    text = file.read_text("utf-8", "replace")[:100_000]
    options = tuple(f"--{key.replace('_', '-')}={value}" for key, value in _OF_DATA.findall(text))
    return Server(file.parent, private_folder(base, *below, "database"), options=options)


def program() -> str:
    """Return the program of the database server; raises HostFailed naming the package."""
    found = shutil.which("mariadbd", path=None) or shutil.which(
        "mariadbd", path="/usr/sbin:/usr/local/sbin:/usr/libexec"
    )
    if found is None:
        raise HostFailed(
            "no-mariadb", "There is no MariaDB server here, and this host brings its own data.", f"Install {PACKAGE}."
        )
    return found


def _user() -> str:
    return getpass.getuser()


def _last(text: bytes) -> str:
    lines = [line for line in text.decode("utf-8", "replace").splitlines() if line.strip()]
    wrong = [line for line in lines if "[ERROR]" in line]
    return (wrong or lines or ["it printed nothing"])[-1][:300]
