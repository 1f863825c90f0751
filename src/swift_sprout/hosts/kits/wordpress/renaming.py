"""What the database keeps of a renamed module, by the names that changed in its code: tables, options, rights."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from ....core.errors import HostFailed
from ....core.hostfacts import StepRun
from ....running.activity import doing
from .php import last_line, tell

if TYPE_CHECKING:
    from .view import HostView


def carry_state(
    view: HostView, module: str, names: Mapping[str, str], held: Sequence[str], limit_seconds: float
) -> list[StepRun]:
    """Rename in the database what carries a name that changed; raises HostFailed.

    names -- the identifiers that changed in the module's files, and what each is now
    held  -- identifiers of other modules that hold one of those: what carries them stays
    """
    php = view.ready(limit_seconds)
    doing(f"carry the data of {module}")
    told = tell(
        php, "carry.php", view.root, {"names": dict(names), "held": list(held)}, limit_seconds, view.environment()
    )
    if "done" not in told.answers:
        raise HostFailed(
            "host-broke", f"The database could not be carried to {module}: {last_line(told.output)}", "Fix that first."
        )
    done = ", ".join(
        f"{count} {what.removesuffix('s') if count == 1 else what}"
        for what, count in (told.answers["done"] or {}).items()
    )
    return [StepRun(f"carry what the database keeps of {module}: {done or 'nothing'}", True)]
