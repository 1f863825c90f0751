"""Findings as SARIF 2.1.0 (OASIS, Static Analysis Results Interchange Format), for editors and code hosts."""

from __future__ import annotations

import json
import posixpath
from typing import TYPE_CHECKING, Any
from urllib.parse import quote

from .. import __version__
from ..core.plaintext import plain_json

if TYPE_CHECKING:
    from collections.abc import Iterable

    from ..core.findings import Finding, Rule
    from ..core.results import CheckResult
    from .rulepages import RulePages

_LEVELS = {"error": "error", "warning": "warning", "note": "note"}


def sarif(result: CheckResult, rules: Iterable[Rule], pages: RulePages) -> str:
    """Return the document; ``rules`` are the kit's, of which those that were met are described, with their pages."""
    findings = list(dict.fromkeys(result.findings))
    accepted = list(dict.fromkeys(one for setup in result.setups for one in setup.accepted))
    met = {finding.code for finding in [*findings, *(one.finding for one in accepted)]}
    described = [rule for rule in rules if rule.code in met]
    index = {rule.code: number for number, rule in enumerate(described)}
    document = {
        "$schema": "https://json.schemastore.org/sarif-2.1.0.json",
        "version": "2.1.0",
        "runs": [
            {
                "tool": {
                    "driver": {
                        "name": "swift-sprout",
                        "version": __version__,
                        "rules": [_rule(rule, pages.published(rule.code)) for rule in described],
                    }
                },
                "columnKind": "unicodeCodePoints",
                "results": [
                    *(_result(finding, index, result.below) for finding in findings),
                    *(
                        {
                            **_result(one.finding, index, result.below),
                            "suppressions": [{"kind": "external", "justification": one.reason}],
                        }
                        for one in accepted
                    ),
                ],
            }
        ],
    }
    return plain_json(json.dumps(document, indent=2, ensure_ascii=False)) + "\n"


def _rule(rule: Rule, page: str) -> dict[str, Any]:
    described: dict[str, Any] = {
        "id": rule.code,
        "shortDescription": {"text": rule.cause},
        "fullDescription": {"text": rule.effect},
        "help": {"text": rule.mend, "markdown": f"{rule.effect}.\n\n**Remedy:** {rule.mend}."},
        "defaultConfiguration": {"level": _LEVELS[rule.severity]},
    }
    return described | {"helpUri": page} if page else described


def _result(finding: Finding, index: dict[str, int], below: str) -> dict[str, Any]:
    """Return a finding; its file as the repository knows it, so that it stands beside the right line there."""
    found: dict[str, Any] = {
        "ruleId": finding.code,
        "ruleIndex": index[finding.code],
        "level": _LEVELS[finding.severity],
        "message": {"text": f"{finding.about}: {finding.cause}. {finding.effect}. Remedy: {finding.mend}."},
        "properties": {"module": finding.module, "rung": str(finding.rung), "followsFrom": finding.follows_from},
    }
    if finding.file:
        location: dict[str, Any] = {"artifactLocation": {"uri": quote(posixpath.join(below, finding.file))}}
        if finding.line:
            location["region"] = {"startLine": finding.line}
        found["locations"] = [{"physicalLocation": location}]
    return found
