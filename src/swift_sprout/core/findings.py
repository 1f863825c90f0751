"""Rules and findings: a rule is one cause that a kit knows, a finding is that cause met in one place."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from enum import StrEnum
from typing import Any

from .ladder import RUNGS, Rung
from .namedtuples import NamedTuple


class Severity(StrEnum):
    """ERROR fails the rung; WARNING and NOTE do not."""

    ERROR = "error"
    WARNING = "warning"
    NOTE = "note"


class Rule(NamedTuple):
    """One cause.

    code     -- our name for it, ``rung.what``
    cause    -- what is wrong, effect -- what it does to the module, mend -- what to do: sentences with ``{values}``
    versions -- the host versions it holds for, e.g. ``>=5.0``; empty for all
    follows  -- codes of rules that, when met as well, explain this one away
    mendable -- True when ``check --mend`` may apply the mend by itself
    """

    code: str
    rung: Rung
    severity: Severity
    cause: str
    effect: str
    mend: str
    versions: str = ""
    follows: tuple[str, ...] = ()
    mendable: bool = False


class Finding(NamedTuple):
    """One rule met in one place; ``file`` is relative to the host's root, ``line`` counts from 1 (0: no line)."""

    code: str
    rung: Rung
    severity: Severity
    module: str
    file: str
    line: int
    cause: str
    effect: str
    mend: str
    mendable: bool = False
    follows: tuple[str, ...] = ()
    follows_from: str = ""

    @property
    def place(self) -> str:
        """``file:line``, or the file alone."""
        return f"{self.file}:{self.line}" if self.line else self.file


class RuleBook:
    """The rules of one kit, by code."""

    def __init__(self, rules: Iterable[Rule]) -> None:
        self._rules = {rule.code: rule for rule in rules}

    def __iter__(self) -> Iterator[Rule]:
        return iter(self._rules.values())

    def __len__(self) -> int:
        return len(self._rules)

    def __getitem__(self, code: str) -> Rule:
        return self._rules[code]

    def finding(self, code: str, module: str, file: str = "", line: int = 0, **values: object) -> Finding:
        """Fill a rule with the values of one place where it was met."""
        rule = self._rules[code]
        filled = {"module": module, "file": file, **values}
        return Finding(
            code=code,
            rung=rule.rung,
            severity=rule.severity,
            module=module,
            file=file,
            line=line,
            cause=rule.cause.format_map(filled),
            effect=rule.effect.format_map(filled),
            mend=rule.mend.format_map(filled),
            mendable=rule.mendable,
            follows=rule.follows,
        )


def rules_from(data: dict[str, Any]) -> list[Rule]:
    """Read the rules of a kit from its rules file: a table per code."""
    return [
        Rule(
            code=code,
            rung=Rung(code.split(".")[0] if "rung" not in entry else entry["rung"]),
            severity=Severity(entry.get("severity", "error")),
            cause=entry["cause"],
            effect=entry["effect"],
            mend=entry["mend"],
            versions=entry.get("versions", ""),
            follows=tuple(entry.get("follows", ())),
            mendable=entry.get("mendable", False),
        )
        for code, entry in data.items()
    ]


def first_cause_first(findings: Iterable[Finding]) -> list[Finding]:
    """Order findings by severity and rung, and mark each that only follows from another one.

    A finding follows from another of the same module when its rule names that one's code (or the code's rung
    followed by ``*``); marked ones come last.
    """
    found = list(dict.fromkeys(findings))
    marked: list[Finding] = []
    for finding in found:
        source = next((other.code for other in found if _explains(other, finding)), "")
        marked.append(finding._replace(follows_from=source) if source else finding)
    severities = list(Severity)
    return sorted(
        marked,
        key=lambda one: (bool(one.follows_from), severities.index(one.severity), RUNGS.index(one.rung)),
    )


def _explains(other: Finding, finding: Finding) -> bool:
    if other is finding or other.module != finding.module or other.code == finding.code:
        return False
    return any(
        other.code == code or (code.endswith(".*") and other.code.startswith(code[:-1])) for code in finding.follows
    )
