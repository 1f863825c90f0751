"""What the database keeps of a renamed module: its state, its data's ids, its models and their tables."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from ....core.errors import Refused, SproutError
from ....core.hostfacts import StepRun
from .running import carry_out

if TYPE_CHECKING:
    from ....core.renaming.identifiers import Identifiers
    from .view import HostView


def refuse_needed(view: HostView, module: str) -> None:
    """Raise Refused for a module that installed ones need by its name: the host loads none of them then (its 8.2)."""
    needing = [one.name for one in view.modules if not one.own and any(item.text == module for item in one.depends)]
    if needing:
        told = ", ".join(needing[:3]) + (f" and {len(needing) - 3} more" if len(needing) > 3 else "")
        raise Refused(
            "needed-by-installed",
            f"{told}, installed beside this host, need{'s' if len(needing) == 1 else ''} {module} by its name: without "
            "it the host does not start. Nothing was changed.",
            "Uninstall them first, or make a copy: swift-sprout new NAME --like " + module,
        )


def carry_state(
    view: HostView, module: str, changed: Identifiers, limit_seconds: float, update: Callable[[], list[StepRun]]
) -> list[StepRun]:
    """Rename in the database what carries a name that changed, then update the module; raises HostFailed.

    update -- brings the database up to the files
    """
    title = f"carry what the database keeps of {module}"
    printed = carry_out(view, title, "carry", limit_seconds, **changed.as_data())
    done = [StepRun(f"{title}: {printed.strip().splitlines()[-1]}", True)]
    try:
        return [*done, *update()]
    except SproutError:
        carry_out(view, f"take {title} back", "carry", limit_seconds, **changed.back.as_data())
        raise
