"""Content of a module: its records and pages, taken out of a database as text, and put into another one."""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ....core.contents import PutContent, TakenContent
from ....core.errors import HostFailed
from ....running.process import run
from ....running.scratch import scratch_folder
from ...python.interpreter import INSIDE
from ...python.probing import START
from .asking import said
from .facts import django
from .reading.project import ENTRY_SCRIPT

if TYPE_CHECKING:
    from .reading.modules import ModuleFiles
    from .view import HostView

PROBES = Path(__file__).parent / "probe"


def take(view: HostView, module: ModuleFiles, limit_seconds: float) -> TakenContent:
    """Return the content of a module as files; raises HostFailed when the host cannot tell it."""
    with scratch_folder() as folder:
        told = _asked(view, module, "take", folder, True, limit_seconds)
        files = {
            name: (json.dumps(data, indent=2, ensure_ascii=False) + "\n").encode("utf-8")
            for name, data in told["files"].items()
        }
        for path in sorted((folder / "files").glob("*")):
            files[f"files/{path.name}"] = path.read_bytes()
    return TakenContent(files, told["counts"])


def put(view: HostView, module: ModuleFiles, folder: Path, keep: bool, limit_seconds: float) -> PutContent:
    """Put the content of a folder into the host; raises HostFailed, with nothing changed, when that does not work."""
    told = _asked(view, module, "put", folder, keep, limit_seconds)
    return PutContent(told["counts"], told["open"])


def _asked(
    view: HostView, module: ModuleFiles, what: str, folder: Path, keep: bool, limit_seconds: float
) -> dict[str, Any]:
    assert view.interpreter is not None
    question = {
        "entry": ENTRY_SCRIPT,
        "copies": str(view.database_copies or ""),
        "module": module.name,
        "do": what,
        "folder": str(folder),
        "keep": keep,
        "asked_by": os.getpid(),
    }
    own = django(view.data).content
    script = view.data.folder / own if own else PROBES / "content.py"
    paths = ":".join(str(one) for one in dict.fromkeys((script.parent, PROBES, INSIDE)))
    command = [str(view.interpreter.path), "-c", START, paths, script.stem]
    with scratch_folder() as between:
        (between / "question").write_text(json.dumps(question | {"between": str(between)}), "utf-8")
        ended = run([*command, str(between)], view.root, max(limit_seconds, 120))
        answer = between / "answer"
        told: dict[str, Any] = json.loads(answer.read_text("utf-8")) if answer.is_file() else {}
        if "error" in told:
            raise HostFailed(
                "content-failed",
                f"The content of {module.name} could not be {'taken' if what == 'take' else 'put'}: "
                f"{said(told['error'])}; nothing was changed.",
                "Fix that; `swift-sprout check` tells whether the module is enabled and its tables are there.",
            )
    if told:
        return told
    reason = "it took too long" if ended.status is None else (ended.output.strip().splitlines() or ["no answer"])[-1]
    raise HostFailed("content-failed", f"The host gave no answer about {module.name}: {reason[:300]}", "Look at it.")
