"""Talking to a probe: a script that runs inside the host, tells its steps and answers, and serves until let go.

The channel is the same for every language, see docs/probes.md: JSON, a line each, read by the probe from its standard
input and written to its standard output. What the host itself prints goes to the error stream.
"""

from __future__ import annotations

import json
import os
import select
import subprocess
import time
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from ..core import masking
from . import process
from .activity import doing

#  what people read of steps whose names say it to us alone
_IN_WORDS = {
    "absent": "names in its code",
    "closer": "names in its code",
    "broken_commands": "console commands",
    "address_names": "names of addresses",
    "carried": "what modules carry",
    "loaded": "files it has loaded",
    "mapped": "records",
    "setup": "apps",
    "put_together": "views and links",
    "shadowed": "addresses that hide others",
    "template_names": "templates",
    "the steps done aside": "models and rights",
    "tree": "page tree",
    "tried": "rows on trial",
}


def step_in_words(step: str) -> str:
    """Return what a probe's step asks the host for, as people read it."""
    return _IN_WORDS.get(step, step.replace("_", " "))


class ProbeFailed(Exception):
    """The probe gave no answers.

    step   -- the step it was in
    reason -- one sentence
    output -- the end of what the host printed
    """

    def __init__(self, step: str, reason: str, output: str) -> None:
        super().__init__(reason)
        self.step = step
        self.reason = reason
        self.output = output


class Probe:
    """A running probe; use it as a context manager so that it always ends."""

    def __init__(
        self,
        command: Sequence[str],
        folder: Path,
        question: Mapping[str, Any],
        limit_seconds: float,
        environment: Mapping[str, str] | None = None,
    ) -> None:
        """Start a probe by its command line in the host's folder, and send it the question."""
        self._limit = limit_seconds
        self._buffer = b""
        self.step = "start"
        self._answers: dict[str, Any] | None = None
        self._began = time.monotonic()
        self._process = process.start(
            command,
            folder,
            environment,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
        )
        assert self._process.stdin and self._process.stdout and self._process.stderr
        self._output = process.TailReader(self._process.stderr)
        self.tell(question)

    def __enter__(self) -> Probe:
        return self

    def __exit__(self, *_: object) -> None:
        process.end(self._process)
        for stream in (self._process.stdin, self._process.stdout, self._process.stderr):
            if stream is not None:
                try:
                    stream.close()
                except OSError:
                    pass

    def tell(self, message: Mapping[str, Any]) -> None:
        """Send the probe one message."""
        assert self._process.stdin is not None
        try:
            self._process.stdin.write(json.dumps(message).encode() + b"\n")
            self._process.stdin.flush()
        except BrokenPipeError:
            pass  # the end of the process is told when its answers are read

    def first_answers(self) -> dict[str, Any]:
        """Wait until the probe serves, or has ended its questions; raises ProbeFailed as ``answers`` does."""
        return self._wait_for("serving", "answers")

    def answers(self) -> dict[str, Any]:
        """Wait for all answers; raises ProbeFailed when the host hangs, ends by itself or answers nothing."""
        return self._answers if self._answers is not None else self._wait_for("answers")

    def ask(self, question: str, **more: Any) -> dict[str, Any]:
        """Ask one thing more of a probe that serves; raises ProbeFailed as ``answers`` does."""
        self.tell({"ask": question, **more})
        return self._wait_for(question)

    def finish(self) -> dict[str, Any]:
        """Let the probe go and return its log of the requests; empty when it does not give one any more."""
        assert self._process.stdin is not None
        try:
            self._process.stdin.close()
            return self._wait_for("log")
        except (OSError, ProbeFailed):
            return {}

    @property
    def seconds_left(self) -> float:
        """How long the probe may still take for all that it is asked."""
        return self._began + self._limit - time.monotonic()

    def output(self) -> str:
        """Return the end of what the host printed so far."""
        return self._output.text(0.05)

    def _wait_for(self, *keys: str) -> dict[str, Any]:
        while True:
            line = self._line()
            try:
                message = json.loads(line)
            except ValueError:
                continue
            if "step" in message:
                self.step = message["step"]
                doing(f"asking the running host: {step_in_words(self.step)}")
            if "answers" in message:
                self._answers = message["answers"]
                masking.learn(message["answers"].pop("secrets", ()))
            for key in keys:
                if key in message:
                    answer: dict[str, Any] = message[key]
                    return answer

    def _line(self) -> bytes:
        assert self._process.stdout is not None
        descriptor = self._process.stdout.fileno()
        while b"\n" not in self._buffer:
            left = self._began + self._limit - time.monotonic()
            if left <= 0 or not select.select([descriptor], [], [], left)[0]:
                raise ProbeFailed(self.step, f"it did not answer within {self._limit:.0f} s", self._output.text(0.05))
            chunk = os.read(descriptor, 1 << 16)
            if not chunk:
                status = self._process.wait()
                ending = f"ended by signal {-status}" if status < 0 else f"ended by itself with status {status}"
                raise ProbeFailed(self.step, f"its process {ending}", self._output.text())
            self._buffer += chunk
        line, self._buffer = self._buffer.split(b"\n", 1)
        return line
