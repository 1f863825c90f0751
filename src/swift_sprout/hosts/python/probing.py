"""Probes of hosts that Python runs: scripts that the host's own interpreter imports."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from ...running.interpreter import Interpreter
from ...running.probe import Probe
from .interpreter import INSIDE

# as an import, so that the byte code made when this package was installed serves where the versions are the same
START = "import sys; sys.path[:1] = sys.argv[1].split(':'); __import__(sys.argv[2]).main()"


def python_probe(
    interpreter: Interpreter,
    script: Path,
    folder: Path,
    question: Mapping[str, Any],
    limit_seconds: float,
    shared: Sequence[Path] = (),
) -> Probe:
    """Start a probe in a host's folder.

    script -- the probe, which says a function ``main``
    shared -- further folders with what it imports
    """
    folders = ":".join(str(one) for one in (script.parent, INSIDE, *shared))
    command = [str(interpreter.path), "-X", "utf8", "-c", START, folders, script.stem]
    return Probe(command, folder, question, limit_seconds, {"PYTHONDONTWRITEBYTECODE": "1"})
