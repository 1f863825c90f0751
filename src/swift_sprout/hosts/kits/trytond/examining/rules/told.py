"""What the running host told of all that modules carry."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from ..examination import Examination


def carried(exam: Examination, what: str) -> list[Mapping[str, Any]]:
    """Return what was told of one subject for the module under examination."""
    if exam.live is None or not exam.loaded:
        return []
    told = (exam.live.answers.get("carried") or {}).get(what) or []
    return [one for one in told if one["module"] == exam.module.name and not of_left_out(exam, one.get("error"))]


def told_of_all(exam: Examination, what: str) -> Mapping[str, Any]:
    """Return what was told of one subject by the model that it is about; nothing where the host was not asked."""
    carried_all = exam.live.answers.get("carried") if exam.live is not None and exam.loaded else None
    return (carried_all or {}).get(what) or {}


def of_left_out(exam: Examination, error: Mapping[str, Any] | None) -> bool:
    """True for an error about a model that a module would bring which had to be left out: the database knows of it."""
    if error is None or exam.live is None or not exam.live.left_out:
        return False
    named = {word for one in error["chain"] for word in re.findall(r"'([\w-]+(?:\.[\w-]+)+)'", str(one["text"]))}
    gone = [exam.view.module(name) for name in exam.live.left_out]
    brought = {one.model for module in gone if module is not None for one in module.shared.models}
    return any(word in brought or word not in exam.models.by_name for word in named)
