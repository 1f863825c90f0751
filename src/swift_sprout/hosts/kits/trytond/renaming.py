"""What the database keeps of a renamed module: its state, its data's ids, its models and their tables."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING

from ....core.errors import SproutError
from ....core.hostfacts import StepRun
from .running import carry_out

if TYPE_CHECKING:
    from .view import HostView


def carry_state(
    view: HostView,
    module: str,
    names: Mapping[str, str],
    held: Sequence[str],
    limit_seconds: float,
    update: Callable[[], list[StepRun]],
) -> list[StepRun]:
    """Rename in the database what carries a name that changed, then update the module; raises HostFailed.

    names  -- the identifiers that changed in the module's files, and what each is now
    held   -- identifiers of other modules that hold one of those: what carries them stays
    update -- brings the database up to the files
    """
    title = f"carry what the database keeps of {module}"
    printed = carry_out(view, title, "carry", limit_seconds, names=dict(names), held=list(held))
    done = [StepRun(f"{title}: {printed.strip().splitlines()[-1]}", True)]
    try:
        return [*done, *update()]
    except SproutError:
        back = {new: old for old, new in names.items()}
        carry_out(view, f"take {title} back", "carry", limit_seconds, names=back, held=list(held))
        raise
