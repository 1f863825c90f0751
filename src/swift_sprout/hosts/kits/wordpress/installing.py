"""Installing a module from an archive, as the host does it itself."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from ....core.errors import HostFailed
from ....core.hostfacts import StepRun
from .php import last_line, tell
from .reading.modules import modules_of

if TYPE_CHECKING:
    from .view import HostView


def install(view: HostView, archive: Path, limit_seconds: float) -> tuple[str, list[StepRun]]:
    """Install an archive with the host's own upgrader; returns the module's name. Raises HostFailed."""
    php = view.ready(limit_seconds)
    told = tell(php, "upgrade.php", view.root, {"archive": str(archive)}, limit_seconds, view.environment())
    main = told.answers.get("main", "")
    said = told.answers.get("said") or []
    module = next((one for one in modules_of(view.root) if one.key == main), None)
    if module is None:
        reason = told.answers.get("error") or (said[-1] if said else last_line(told.output))
        raise HostFailed("archive-refused", f"The host does not take the archive: {reason}", "Look at what it holds.")
    return module.name, [StepRun(f"install {archive.name} with the host's own upgrader, as {main}", True)]
