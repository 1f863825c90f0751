"""What the database keeps of a renamed module, by the names that changed in its code: tables, options, rights."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ....core.errors import HostFailed
from ....core.hostfacts import StepRun
from ....running.activity import doing
from .php import last_line, tell

if TYPE_CHECKING:
    from ....core.renaming.identifiers import Identifiers
    from .view import HostView


def carry_state(view: HostView, module: str, changed: Identifiers, limit_seconds: float) -> list[StepRun]:
    """Rename in the database what carries a name that changed; raises HostFailed."""
    php = view.ready(limit_seconds)
    doing(f"carry the data of {module}")
    told = tell(php, "carry.php", view.root, changed.as_data(), limit_seconds, view.environment())
    if "done" not in told.answers:  # perhaps half of it: tables are renamed one by one
        tell(php, "carry.php", view.root, changed.back.as_data(), limit_seconds, view.environment())
        raise HostFailed(
            "host-broke",
            f"The database could not be carried to {module}: {last_line(told.output)} What was done was taken back.",
            "Fix that first.",
        )
    done = ", ".join(
        f"{count} {what.removesuffix('s') if count == 1 else what}"
        for what, count in (told.answers["done"] or {}).items()
    )
    return [StepRun(f"carry what the database keeps of {module}: {done or 'nothing'}", True)]
