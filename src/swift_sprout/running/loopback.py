"""Requests over the loopback interface, and free ports on it."""

from __future__ import annotations

import time
from functools import cache
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    import socket

LOOPBACK = "127.0.0.1"
LARGEST_BODY = 4 * 1024 * 1024


class Response(NamedTuple):
    """What a host answered; ``status`` is 0 when it did not, and ``failure`` says why.

    headers -- with lower-case names; body -- at most LARGEST_BODY bytes of it
    """

    status: int
    headers: dict[str, str]
    body: bytes
    seconds: float
    failure: str = ""


def get_until(port: int, path: str, headers: dict[str, str], limit_seconds: float, deadline: float) -> Response:
    """Ask as ``get`` does, but no longer than to a moment of the steady clock; after it nothing is asked any more."""
    left = deadline - time.monotonic()
    if left <= 0.05:
        return Response(0, {}, b"", 0.0, "not asked: the time limit of the command had passed before its turn came")
    return get(port, path, headers, min(limit_seconds, left))


def get(port: int, path: str, headers: dict[str, str], limit_seconds: float) -> Response:
    """Ask a host on a loopback port for a path, following no redirection.

    The limit holds for the whole answer: a host that sends one letter after the other is cut off as well.
    """
    from http.client import HTTPConnection, HTTPException

    began = time.monotonic()
    connection = HTTPConnection(LOOPBACK, port, timeout=limit_seconds)
    watched: socket.socket | None = None
    try:
        connection.connect()
        watched = connection.sock
        _watch().begin(watched, began + limit_seconds)
        connection.request("GET", path, headers=headers)
        response = connection.getresponse()
        body = response.read(LARGEST_BODY)
        if time.monotonic() - began >= limit_seconds:
            return Response(0, {}, b"", time.monotonic() - began, f"no whole answer within {limit_seconds:.0f} s")
        names = {name.lower(): value for name, value in response.getheaders()}
        return Response(response.status, names, body, time.monotonic() - began)
    except (OSError, HTTPException) as error:
        return Response(0, {}, b"", time.monotonic() - began, str(error) or type(error).__name__)
    finally:
        if watched is not None:
            _watch().end(watched)
        connection.close()


class _Watch:
    """Cuts connections off that are not at their end in time: one thread for all of them, started with the first."""

    def __init__(self) -> None:
        import threading

        self._deadlines: dict[socket.socket, float] = {}
        self._changed = threading.Condition()
        self._until = 0.0  # when the thread looks again
        threading.Thread(target=self._run, daemon=True).start()

    def begin(self, connected: socket.socket, deadline: float) -> None:
        with self._changed:
            self._deadlines[connected] = deadline
            if deadline < self._until:
                self._changed.notify()

    def end(self, connected: socket.socket) -> None:
        with self._changed:
            self._deadlines.pop(connected, None)

    def _run(self) -> None:
        import socket

        with self._changed:
            while True:
                now = time.monotonic()
                for connected in [one for one, deadline in self._deadlines.items() if deadline <= now]:
                    del self._deadlines[connected]
                    try:
                        connected.shutdown(socket.SHUT_RDWR)
                    except OSError:
                        continue  # it is closed already
                self._until = min(self._deadlines.values(), default=now + 3600)
                self._changed.wait(self._until - now)


@cache
def _watch() -> _Watch:
    return _Watch()


def free_port() -> int:
    """Return a port of the loopback interface that nothing listens on now."""
    import socket

    with socket.socket() as probe:
        probe.bind((LOOPBACK, 0))
        port: int = probe.getsockname()[1]
        return port


def port_is_free(port: int) -> bool:
    """True when a host could listen on that loopback port; raises PermissionError where nobody but root may."""
    import socket

    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((LOOPBACK, port))
        except PermissionError:
            raise
        except OSError:
            return False
    return True


def wait_until_answering(port: int, limit_seconds: float) -> bool:
    """Wait until something accepts connections on a loopback port."""
    import socket

    deadline = time.monotonic() + limit_seconds
    while time.monotonic() < deadline:
        try:
            with socket.create_connection((LOOPBACK, port), timeout=1):
                return True
        except OSError:
            time.sleep(0.02)
    return False
