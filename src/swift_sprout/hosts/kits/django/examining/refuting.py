"""What the running host refutes of what its files seem to say: its registry knows labels, records and rights."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from .....core.findings import Finding
    from .examination import Examination

Registry = Mapping[str, Mapping[str, Any]]


def is_refuted(exam: Examination, finding: Finding) -> bool:
    """True for a finding from files that what is in the running host's registry contradicts."""
    refuting = _REFUTING.get(finding.code)
    registry = exam.live.registry_by_name if refuting is not None and exam.live is not None else {}
    return refuting is not None and exam.module.name in registry and refuting(registry, exam.module.name, finding)


def _has_other_label(registry: Registry, module: str, finding: Finding) -> bool:
    other = registry.get(finding.value("other"))
    return other is not None and other["label"] != registry[module]["label"]


def _has_record(registry: Registry, module: str, finding: Finding) -> bool:
    label, _, name = finding.value("target").lower().rpartition(".")
    return any(
        entry["label"].lower() == label and any(model["name"].lower() == name for model in entry["models"])
        for entry in registry.values()
    )


def _has_right(registry: Registry, module: str, finding: Finding) -> bool:
    right = finding.value("right") or finding.value("permission")
    return any(right in model["rights"] for entry in registry.values() for model in entry["models"])


_REFUTING: Mapping[str, Callable[[Registry, str, Finding], bool]] = {
    "compatible.label-taken": _has_other_label,
    "enabled.relation-absent": _has_record,
    "permitted.guard-right-unknown": _has_right,
    "permitted.permission-unknown": _has_right,
    "permitted.template-right-unknown": _has_right,
}
