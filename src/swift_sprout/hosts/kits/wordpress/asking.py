"""Asking the running host: one process that loads it once, and a server of its own on loopback for its pages."""

from __future__ import annotations

import json
import os
import subprocess
import time
from collections.abc import Mapping, Sequence
from contextlib import ExitStack
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from ....core.errors import HostFailed
from ....running import loopback, process
from ....running.scratch import scratch_folder
from ...contract.exchange import StartUp
from ...shared.leaving_out import start_without_culprits
from .php import PROBE, Php, first_line, last_line, options, tell
from .view import down

if TYPE_CHECKING:
    from .reading.modules import ModuleFiles
    from .view import HostView

EVERYTHING = "everything"
TRIES = 3
START_SECONDS = 10.0


class Fatal(NamedTuple):
    """What ended the host's run: the sort, the message, the place, and the module that was loaded last before it."""

    sort: str
    message: str
    file: str
    line: int
    after: str

    @property
    def said(self) -> str:
        """The message without the trace behind it."""
        return self.message.split("\nStack trace:")[0].split(" in /")[0].strip()


class Boot(NamedTuple):
    """What one run of the host told; ``fatal`` is None when it came to its end."""

    answers: dict[str, Any]
    guard: dict[str, Any]
    fatal: Fatal | None
    output: str

    @property
    def booted(self) -> bool:
        """True when the host was loaded."""
        return bool(self.answers.get("booted"))


def boot(view: HostView, limit_seconds: float, **question: Any) -> Boot:
    """Load the host once and return what it told; raises HostFailed when it cannot even be tried."""
    php = view.ready(limit_seconds)
    told = tell(php, "ask.php", view.root, question, limit_seconds, view.environment())
    guard = told.answers.pop("guard", {})
    fatal = Fatal(*guard["fatal"]) if guard.get("fatal") else None
    if told.status is None:
        fatal = fatal or Fatal(
            "time", f"it did not answer within {limit_seconds:.0f} s", "", 0, str(told.answers.get("loaded", ""))
        )
    return Boot(told.answers, guard, fatal, told.output)


class AskedHost(NamedTuple):
    """What the host told, and the modules that had to be left out for it to run: name, and what they did."""

    boot: Boot
    left_out: dict[str, Fatal]


def ask_host(view: HostView, limit_seconds: float, **question: Any) -> AskedHost:
    """Load the host; where a module breaks it, leave that one out and ask for the others.

    Raises HostFailed when it does not run for another reason.
    """
    keys = {module.name: module.key for module in view.modules}

    def start(left_out: Mapping[str, Fatal]) -> Boot:
        return boot(view, limit_seconds, without=[keys[name] for name in left_out], **question)

    def runs(found: Boot) -> bool:
        return found.booted and (found.fatal is None or "menu" in found.answers)

    def culprit(found: Boot, left_out: Mapping[str, Fatal]) -> tuple[str, Fatal] | None:
        if runs(found) or found.fatal is None:
            return None
        module = _culprit(view, found.fatal, left_out)
        return (module.name, found.fatal) if module is not None else None

    found, left_out = start_without_culprits(start, culprit, len(view.modules) + 1)
    if runs(found):
        return AskedHost(found, left_out)
    said = found.fatal.said if found.fatal is not None else ""
    place = f" ({view.relative(Path(found.fatal.file))}:{found.fatal.line})" if said and found.fatal else ""
    sentence = f"The host does not start: {said}{place}" if said else down(found.output)
    raise HostFailed("host-broke", sentence, "Look at the host's own log; the checks of files are made.")


def _culprit(view: HostView, fatal: Fatal, left_out: Mapping[str, Fatal]) -> ModuleFiles | None:
    here = [one for one in view.modules if one.name not in left_out]
    for module in here:
        if fatal.file and (Path(fatal.file) == module.place or module.place in Path(fatal.file).parents):
            return module
    if view.state is None:
        return None
    gone = {module.key for module in view.modules if module.name in left_out}
    active = [key for key in view.state["active"] if key not in gone]
    following = active.index(fatal.after) + 1 if fatal.after in active else 0
    if fatal.after == (active or [""])[-1] or following >= len(active):
        return None
    return next((one for one in here if one.key == active[following]), None)


class Page(NamedTuple):
    """What the host answered to one request, and what happened while it did.

    template -- the template that drew it, the rule that led there, and the query; footer -- the page came to its end
    """

    status: int
    headers: dict[str, str]
    body: str
    seconds: float
    template: list[str]
    footer: bool
    problems: list[list[Any]]
    fatal: Fatal | None
    failure: str


class Pages:
    """The host's pages, from a server of its own on loopback; use it as a context manager so that it always ends."""

    def __init__(self, view: HostView, php: Php, limit_seconds: float, without: Sequence[str] = ()) -> None:
        self._limit = limit_seconds
        self._deadline = time.monotonic() + limit_seconds
        self._secret = os.urandom(16).hex()
        self._scratch = ExitStack()
        self._log = self._scratch.enter_context(scratch_folder()) / "requests.log"
        self._number = 0
        self._command = [php.path, *options(), "-t", str(view.root)]
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

    def get(self, path: str, roles: Sequence[str] = ()) -> Page:
        """Ask for a page, as a visitor, or as somebody who holds roles."""
        self._number += 1
        headers = {"X-Sprout-Request": str(self._number), "Host": f"127.0.0.1:{self._port}"}
        if roles:
            headers["X-Sprout-Person"] = f"{self._secret}:{','.join(roles)}"
        answer = loopback.get_until(self._port, path, headers, self._limit, self._deadline)
        if answer.failure and answer.seconds:  # it works on one request at a time, and this one may go on
            self._end()
            self._start()
        told = self._told(str(self._number))
        fatal = Fatal(*told["fatal"]) if told.get("fatal") else None
        body = answer.body.decode("utf-8", "replace")
        return Page(
            answer.status,
            answer.headers,
            body,
            answer.seconds,
            list(told.get("template") or []),
            bool(told.get("footer")),
            list(told.get("problems") or []),
            fatal,
            answer.failure,
        )

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


def start_up(view: HostView, limit_seconds: float) -> StartUp:
    """Start the host once, with all modules that are on."""
    if view.php is None:
        return StartUp(False)
    try:
        active = view.ask_state(limit_seconds)["active"]
        question = {"file": "", "what": "start"}
        told = tell(view.ready(limit_seconds), "turn.php", view.root, question, limit_seconds, view.environment())
    except HostFailed as error:
        return StartUp(True, (error.sentence,))
    if "done" not in told.answers:
        message = told.answers.get("fatal", [told.answers.get("printed") or told.output])[0]
        return StartUp(True, (f"it stops: {first_line(str(message))}",))
    return StartUp(True, (), frozenset(one.name for one in view.modules if one.key in active))
