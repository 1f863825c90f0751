"""Requests of the host's pages: a server of its own on loopback, and what happened inside of each request."""

from __future__ import annotations

import json
import os
import subprocess
import time
from collections.abc import Mapping, Sequence
from contextlib import ExitStack
from typing import TYPE_CHECKING, Any, NamedTuple

from ....core.errors import HostFailed
from ....running import loopback, process
from ....running.scratch import scratch_folder
from .asking import Fatal, Watched, watched_of
from .php import PROBE, Php, last_line, options

if TYPE_CHECKING:
    from .view import HostView

EVERYTHING = "everything"
TRIES = 3
PAUSES_SECONDS = (0.2, 1.0, 3.0)  # before a page is asked for again whose host did not reach its database
START_SECONDS = 10.0


class Page(NamedTuple):
    """What the host answered to one request, and what happened while it did.

    template -- the template that drew it, the rule that led there, and the query; footer -- the page came to its end
    areas    -- the areas for widgets that it drew
    database -- what the database said where the host never reached it, asked several times
    """

    status: int
    headers: dict[str, str]
    body: str
    seconds: float
    template: list[str]
    footer: bool
    watched: Watched
    fatal: Fatal | None
    failure: str
    areas: frozenset[str] = frozenset()
    database: str = ""


class Pages:
    """The host's pages, from a server of its own on loopback; use it as a context manager so that it always ends."""

    def __init__(self, view: HostView, php: Php, limit_seconds: float, without: Sequence[str] = ()) -> None:
        self._limit = limit_seconds
        self._deadline = time.monotonic() + limit_seconds
        self._secret = os.urandom(16).hex()
        self._scratch = ExitStack()
        self._log = self._scratch.enter_context(scratch_folder()) / "requests.log"
        self._number = 0
        self._command = [php.path, *options(view.root), "-t", str(view.root)]
        self._root = view.root
        self._environment = {
            "SPROUT_LOG": str(self._log),
            "SPROUT_SECRET": self._secret,
            "SPROUT_WITHOUT": ":".join(without),
            **view.environment(),
        }
        self._up = self._start()

    def _start(self) -> bool:
        """Start the server; True once it listens. That something answers at the port does not say whose it is."""
        for _ in range(TRIES):  # another program may take the port before this one does
            self._port = loopback.free_port()
            command = [*self._command, "-S", f"127.0.0.1:{self._port}", str(PROBE / "router.php")]
            self._process: subprocess.Popen[bytes] = process.start(command, self._root, self._environment)
            assert self._process.stdout is not None
            self._output = process.TailReader(self._process.stdout)
            if self._output.has(f"127.0.0.1:{self._port}) started", START_SECONDS):
                return True
            self._end()
        return False

    def _end(self) -> None:
        process.end(self._process)
        if self._process.stdout is not None:
            self._process.stdout.close()

    def __enter__(self) -> Pages:
        if not self._up:
            self._scratch.close()
            raise HostFailed(
                "host-not-up", f"PHP's server does not start: {last_line(self._output.text())}", "Try again."
            )
        return self

    def __exit__(self, *_: object) -> None:
        self._end()
        self._scratch.close()

    def get(self, path: str, roles: Sequence[str] = (), watched: bool = False) -> Page:
        """Ask for a page, as a visitor, or as somebody who holds roles; ``watched`` looks at each filter as well."""
        headers = {"Host": f"127.0.0.1:{self._port}"}
        if watched:
            headers["X-Sprout-Watch"] = "1"
        if roles:
            headers["X-Sprout-Person"] = f"{self._secret}:{','.join(roles)}"
        answer, told = self._ask(path, headers)
        for pause in PAUSES_SECONDS:
            if not told.get("database"):
                break
            time.sleep(pause)  # a server under load may refuse one connection: that says nothing about the module
            answer, told = self._ask(path, headers)
        fatal = Fatal(*told["fatal"]) if told.get("fatal") else None
        body = answer.body.decode("utf-8", "replace")
        return Page(
            answer.status,
            answer.headers,
            body,
            answer.seconds,
            list(told.get("template") or []),
            bool(told.get("footer")),
            watched_of(told),
            fatal,
            answer.failure,
            frozenset(map(str, told.get("areas") or [])),
            str(told.get("database") or ""),
        )

    def _ask(self, path: str, headers: Mapping[str, str]) -> tuple[loopback.Response, dict[str, Any]]:
        self._number += 1
        numbered = {**headers, "X-Sprout-Request": str(self._number)}
        answer = loopback.get_until(self._port, path, numbered, self._limit, self._deadline)
        if answer.failure and answer.seconds:  # it works on one request at a time, and this one may go on
            self._end()
            self._start()
        return answer, self._told(str(self._number))

    def _told(self, number: str) -> dict[str, Any]:
        try:
            lines = self._log.read_text("utf-8", "replace").splitlines()
        except OSError:
            return {}
        for line in reversed(lines):
            try:
                told: dict[str, Any] = json.loads(line)
            except ValueError:
                continue
            if told.get("id") == number:
                return told
        return {}
