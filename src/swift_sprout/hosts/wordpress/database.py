"""The host's database: what its configuration says, and the server of its own that a host may bring along."""

from __future__ import annotations

import atexit
import subprocess
import time
from pathlib import Path
from typing import NamedTuple

from ...core.errors import HostFailed
from ...running import process

OWN_SERVER = "database/mariadb.cnf"
LONGEST_SOCKET = 106  # bytes in the address of a socket on Linux
PACKAGE = "mariadb-server-core"
_STARTED: dict[str, subprocess.Popen[bytes]] = {}


class Server(NamedTuple):
    """A database server of one host alone, that listens on a socket in a folder.

    options_file -- its options in MariaDB's own form; folder -- where its data lie, and its socket
    """

    options_file: Path
    folder: Path

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
        import socket

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
            f"--pid-file={self.folder / 'server.pid'}",
            "--user=" + _user(),
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
        """Start it where it does not listen already; it ends with this program. Raises HostFailed."""
        if self.answers():
            return
        if len(str(self.socket).encode()) > LONGEST_SOCKET:
            raise HostFailed(
                "database-down",
                f"The path of the database's socket is too long for this system: {self.socket}",
                "Move the host to a folder with a shorter path.",
            )
        started = process.start(self.command(), self.folder)
        assert started.stdout is not None
        output = process.TailReader(started.stdout)
        _STARTED[str(self.folder)] = started
        atexit.register(self.stop)
        deadline = time.monotonic() + limit_seconds
        while time.monotonic() < deadline and started.poll() is None:
            if self.answers():
                return
            time.sleep(0.02)
        self.stop()
        raise HostFailed(
            "database-down",
            f"The host's own database server does not start: {_last(output.text().encode())}",
            f"Its data lie in {self.data}; another server may hold them.",
        )

    def stop(self) -> None:
        """End it, when this program started it."""
        started = _STARTED.pop(str(self.folder), None)
        if started is not None:
            process.end(started, 20)
            if started.stdout is not None:
                started.stdout.close()


def own_server(root: Path) -> Server | None:
    """Return the server that a host brings along; None for a host whose database is somebody else's work."""
    file = root / OWN_SERVER
    return Server(file, file.parent) if file.is_file() else None


def program() -> str:
    """Return the program of the database server; raises HostFailed naming the package."""
    import shutil

    found = shutil.which("mariadbd", path=None) or shutil.which(
        "mariadbd", path="/usr/sbin:/usr/local/sbin:/usr/libexec"
    )
    if found is None:
        raise HostFailed(
            "no-mariadb", "There is no MariaDB server here, and this host brings its own data.", f"Install {PACKAGE}."
        )
    return found


def _user() -> str:
    import getpass

    return getpass.getuser()


def _last(text: bytes) -> str:
    lines = [line for line in text.decode("utf-8", "replace").splitlines() if line.strip()]
    wrong = [line for line in lines if "[ERROR]" in line]
    return (wrong or lines or ["it printed nothing"])[-1][:300]
