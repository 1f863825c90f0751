"""Rules and findings: a rule is one cause that a kit knows, a finding is that cause met in one place."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from enum import StrEnum
from typing import Any, Literal, NamedTuple

from .ladder import RUNGS, Rung
from .nearest import did_you_mean
from .sections import TableWrong, section_from


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
    mended_when_named -- True when it does so only for a module that is named: what it would switch on may be off on
                purpose
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
    mended_when_named: bool = False


class Finding(NamedTuple):
    """One rule met in one place; ``file`` is relative to the host's root, ``line`` counts from 1 (0: no line).

    values -- what the sentences were made of, by name: whoever acts on a finding reads these, never a sentence
    """

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
    values: tuple[tuple[str, str], ...] = ()

    def value(self, name: str) -> str:
        """Return one of the values that the finding was made of; empty where it has none of that name."""
        return dict(self.values).get(name, "")

    @property
    def about(self) -> str:
        """The module that it is about, for people; of a host as a whole that is said."""
        return self.module or "the host"

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
            values=tuple((name, str(value)) for name, value in values.items()),
        )


class _RuleTable(NamedTuple):
    """A rule as a kit's rules file says it: see ``Rule``; the rung is the first word of the code, or said."""

    cause: str
    effect: str
    mend: str
    severity: Literal["error", "warning", "note"] = "error"
    versions: str = ""
    follows: tuple[str, ...] = ()
    mendable: bool = False
    mended_when_named: bool = False
    rung: str = ""


def rules_from(data: dict[str, Any]) -> list[Rule]:
    """Read the rules of a kit from its rules file, a table per code; raises TableWrong for one that is wrong."""
    return [_rule(code, section_from(_RuleTable, table, code)) for code, table in data.items()]


def _rule(code: str, said: _RuleTable) -> Rule:
    rung = said.rung or code.partition(".")[0]
    if rung not in list(Rung):
        raise TableWrong(code, f"no rung is named {rung!r}", did_you_mean(rung, list(Rung)))
    sentences = (said.cause, said.effect, said.mend)
    mends = said.mendable, said.mended_when_named
    return Rule(code, Rung(rung), Severity(said.severity), *sentences, said.versions, said.follows, *mends)


def of_another(code: str, module: str) -> str:
    """Return what ``follows_from`` says of a finding of another module."""
    return f"{code} of {module}"


def consequences(finding: Finding, module: str, all_findings: Iterable[Finding]) -> list[Finding]:
    """Return the findings that follow from one: those of its module, and those of others that name it."""
    whole = of_another(finding.code, module)
    return [
        other
        for other in all_findings
        if (other.follows_from == finding.code and other.module == finding.module) or other.follows_from == whole
    ]


def first_cause_first(findings: Iterable[Finding]) -> list[Finding]:
    """Order findings by severity and rung, and mark each that only follows from another one.

    A finding follows from another of the same module when its rule names that one's code (or the code's rung
    followed by ``*``); marked ones come last.
    """
    told: dict[Finding, Finding] = {}
    for one in findings:
        told.setdefault(one._replace(values=()), one)  # what reads the same is the same
    found = list(told.values())
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
    if other.severity is Severity.NOTE and finding.severity is not Severity.NOTE:
        return False  # what may be no fault at all causes none
    return any(
        other.code == code or (code.endswith(".*") and other.code.startswith(code[:-1])) for code in finding.follows
    )
