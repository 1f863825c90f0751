"""Running trytond's own commands: updates, the server, sample data."""

from __future__ import annotations

import json
from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ....core.errors import HostFailed
from ....running.activity import doing
from ....running.process import run
from ...python.probing import START

if TYPE_CHECKING:
    from .view import HostView

PROBES = Path(__file__).parent / "probe"
_OWN_ERRORS = ("Error", "Exception", "Warning")


def command_line(view: HostView, command: str, **more: Any) -> list[str]:
    """Return the command that runs one of the host's commands; see ``probe/run.py``."""
    assert view.interpreter is not None
    question = {
        "command": command,
        "configuration": "trytond.conf",
        "database": view.database_name,
        "databases": str(view.database_copies or ""),
        "python_path": [str(folder) for folder in view.module_roots],
        "words": [],
        **more,
    }
    return [str(view.interpreter.path), "-X", "utf8", "-c", START, str(PROBES), "run", json.dumps(question)]


def carry_out(view: HostView, title: str, command: str, limit_seconds: float, **more: Any) -> str:
    """Run one of the host's commands to its end and return what it printed; raises HostFailed with its reason."""
    doing(title)
    ended = run(
        command_line(view, command, **more), view.root, max(limit_seconds, 120), {"PYTHONDONTWRITEBYTECODE": "1"}
    )
    if ended.status != 0:
        reason = "it took too long" if ended.status is None else reason_of(ended.output)
        raise HostFailed(
            "settle-failed",
            f"Step {title} did not work: {reason}",
            "Fix that; `swift-sprout check` tells where and why.",
        )
    return ended.output


def reason_of(output: str) -> str:
    """Return the first cause that a traceback of the host names: its wrappers say only the record."""
    errors = [line for line in output.splitlines() if _is_error(line)]
    if not errors:
        lines = [line for line in output.strip().splitlines() if line.strip()]
        return lines[-1][:300] if lines else "it printed nothing"
    first, last = errors[0].strip(), errors[-1].strip()
    return first[:300] if first == last else f"{last[:200]}: {first[:200]}"


def _is_error(line: str) -> bool:
    head = line.partition(":")[0]
    return bool(head) and not line[0].isspace() and head.rpartition(".")[2].endswith(_OWN_ERRORS) and " " not in head


def environment(view: HostView) -> Mapping[str, str]:
    """Return the environment variables with which people start the host themselves."""
    return {"PYTHONPATH": ":".join(str(folder) for folder in view.module_roots)}
