"""Results as JSON documents for other programs; the schemas of these lie beside, in ``schemas/``."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Sequence

    from ..core.changes import ChangeSet
    from ..core.errors import SproutError
    from ..core.findings import Finding
    from ..core.hostfacts import StepRun
    from ..core.refresh import Refresh
    from ..core.results import CheckResult
    from ..core.surveys import HostFacts


def dump(document: dict[str, Any]) -> str:
    """Return a document as text."""
    from ..core.masking import masked
    from ..core.plaintext import plain_json

    def told(value: Any) -> Any:
        if isinstance(value, str):
            return masked(value)
        if isinstance(value, dict):
            return {key: told(inner) for key, inner in value.items()}
        return [told(inner) for inner in value] if isinstance(value, list | tuple) else value

    return plain_json(json.dumps(told(document), indent=2, ensure_ascii=False))


def error(problem: SproutError) -> dict[str, Any]:
    """An error: ``swift-sprout/error/1``."""
    return {
        "format": "swift-sprout/error/1",
        "code": problem.code,
        "sentence": problem.sentence,
        "remedy": problem.remedy,
        "problems": [one._asdict() for one in problem.problems],
        "exit_status": problem.exit_status,
    }


def changes(change_set: ChangeSet) -> list[dict[str, Any]]:
    """The files of a change set, with what happens to each."""
    return [
        {
            "path": change.path,
            "change": change.kind,
            "bytes_before": None if change.before is None else len(change.before),
            "bytes_after": None if change.after is None else len(change.after),
        }
        for change in change_set.changes
    ]


def refreshes(needed: Sequence[Refresh]) -> list[dict[str, Any]]:
    """Which refreshes the host needs after a change."""
    return [{"kind": one.kind, "why": one.why, "files": list(one.files)} for one in needed]


def steps(runs: list[StepRun]) -> list[dict[str, Any]]:
    """Refresh steps that were carried out."""
    return [
        {"step": run.title, "done": run.done} | ({"reason": run.output} if run.output and not run.done else {})
        for run in runs
    ]


def survey(facts: HostFacts) -> dict[str, Any]:
    """What is known of a host: ``swift-sprout/survey/1``."""
    return {
        "format": "swift-sprout/survey/1",
        "host": {"kit": facts.kit, "title": facts.title, "version": facts.version, "root": facts.root},
        "runtime": {"path": facts.runtime, "origin": facts.runtime_origin},
        "settings": facts.settings,
        "addresses": facts.addresses,
        "database": facts.database,
        "places": [place._asdict() for place in facts.places],
        "setups": [{"setup": "real", "modules": [module._asdict() for module in facts.modules]}],
        "missing": [one._asdict() for one in facts.missing],
        "notes": facts.notes,
    }


def check(result: CheckResult) -> dict[str, Any]:
    """Ladders and findings: ``swift-sprout/check/1``."""
    version = next((setup.version for setup in result.setups if setup.version), "")
    modules = [module for setup in result.setups for module in setup.modules]
    return {
        "format": "swift-sprout/check/1",
        "host": {"kit": result.kit, "version": version, "root": result.root},
        "setups": [
            {
                "setup": setup.setup,
                "live": setup.live,
                "failure": setup.failure,
                "notes": setup.notes,
                "findings": [_finding(one) for one in setup.host_findings],
                "accepted": [{**_finding(one.finding), "reason": one.reason} for one in setup.accepted],
                "modules": [
                    {
                        "module": module.module,
                        "title": module.title,
                        "ladder": [
                            {"rung": str(step.rung), "state": str(step.state), "evidence": step.evidence}
                            for step in module.ladder.steps
                        ],
                        "findings": [_finding(one) for one in module.findings],
                        "addresses": module.addresses,
                    }
                    for module in setup.modules
                ],
            }
            for setup in result.setups
        ],
        "summary": {
            "modules": len(modules),
            "served": sum(module.ladder.served for module in modules),
            "findings": len(result.findings),
            "accepted": sum(len(setup.accepted) for setup in result.setups),
            "seconds": round(result.seconds, 3),
        },
    }


def _finding(finding: Finding) -> dict[str, Any]:
    return {
        "code": finding.code,
        "rung": str(finding.rung),
        "severity": str(finding.severity),
        "module": finding.module,
        "file": finding.file,
        "line": finding.line,
        "cause": finding.cause,
        "effect": finding.effect,
        "mend": finding.mend,
        "mendable": finding.mendable,
        "follows_from": finding.follows_from,
        "values": dict(finding.values),
    }
