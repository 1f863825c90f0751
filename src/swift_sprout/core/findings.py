"""Rules and findings: a rule is one cause that a kit knows, a finding is that cause met in one place."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from enum import StrEnum
from typing import Any, Literal, NamedTuple

from .ladder import RUNGS, Rung
from .nearest import did_you_mean
from .plurals import number_of
from .sections import TableWrong, section_from

AT_LINE = "@line"


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
    follows  -- codes of rules that, when met as well, explain this one away; with ``@line`` only at the same line
    mendable -- True when ``check --mend`` may apply the mend by itself
    mended_when_named -- True when it does so only for a module that is named: what it would switch on may be off on
                purpose
    of_one_line -- True for a cause that reaches no further than its line: a code with ``*`` does not mean it
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
    of_one_line: bool = False


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
    of_one_line: bool = False

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
            of_one_line=rule.of_one_line,
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
    of_one_line: bool = False
    rung: str = ""


def rules_from(data: dict[str, Any]) -> list[Rule]:
    """Read the rules of a kit from its rules file, a table per code; raises TableWrong for one that is wrong."""
    return [_rule(code, section_from(_RuleTable, table, code)) for code, table in data.items()]


def _rule(code: str, said: _RuleTable) -> Rule:
    rung = said.rung or code.partition(".")[0]
    if rung not in list(Rung):
        raise TableWrong(code, f"no rung is named {rung!r}", did_you_mean(rung, list(Rung)))
    sentences = (said.cause, said.effect, said.mend)
    mends = said.mendable, said.mended_when_named, said.of_one_line
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


def counted(findings: Iterable[Finding]) -> str:
    """Return how many findings there are, as people count: what follows from another one, and notes, stand apart."""
    told = list(findings)
    notes = sum(one.severity is Severity.NOTE for one in told)
    follow = sum(bool(one.follows_from) and one.severity is not Severity.NOTE for one in told)
    causes = len(told) - notes - follow
    text = f"{causes or 'no'} finding{'' if causes == 1 else 's'}"
    if follow:
        text += f", {follow} follow{'s' if follow == 1 else ''} from {'it' if causes == 1 else 'them'}"
    return text + (f", {number_of(notes, 'note')}" if notes else "")


def first_cause_first(findings: Iterable[Finding]) -> list[Finding]:
    """Order findings by severity and rung, and mark each that only follows from another one.

    A finding follows from another of the same module when its rule names that one's code (or the code's rung
    followed by ``*``), at any line or at the same one; marked ones come last.
    """
    told: dict[Finding, Finding] = {}
    for one in findings:
        told.setdefault(one._replace(values=()), one)  # what reads the same is the same
    found = list(told.values())
    causes: dict[int, int] = {}
    for number in range(len(found) - 1, -1, -1):  # of two that each explain the other, the one told first stays
        for other in range(len(found)):
            if _explains(found[other], found[number]) and not _leads_to(causes, other, number):
                causes[number] = other
                break
    marked = [
        one._replace(follows_from=found[causes[number]].code) if number in causes else one
        for number, one in enumerate(found)
    ]
    severities = list(Severity)
    return sorted(
        marked,
        key=lambda one: (bool(one.follows_from), severities.index(one.severity), RUNGS.index(one.rung)),
    )


def _leads_to(causes: dict[int, int], number: int, wanted: int) -> bool:
    """True when one finding follows, over any number of steps, from another."""
    while number in causes:
        number = causes[number]
        if number == wanted:
            return True
    return number == wanted


def _explains(other: Finding, finding: Finding) -> bool:
    if other is finding or other.module != finding.module or other.code == finding.code:
        return False
    if other.severity is Severity.NOTE and finding.severity is not Severity.NOTE:
        return False  # what may be no fault at all causes none
    return any(_is_meant(other, finding, code) for code in finding.follows)


def explains(other: Finding, finding: Finding) -> bool:
    """True when the rule of a finding names the code of another one, of the host or of any module, as its cause.

    Whole rungs, as ``enabled.*``, are meant for findings of one module only.
    """
    named = (code for code in finding.follows if not code.endswith(".*"))
    return other is not finding and any(_is_meant(other, finding, code) for code in named)


def _is_meant(other: Finding, finding: Finding, said: str) -> bool:
    code = said.removesuffix(AT_LINE)
    if AT_LINE in said and (other.file, other.line) != (finding.file, finding.line):
        return False
    return other.code == code or (code.endswith(".*") and other.code.startswith(code[:-1]) and not other.of_one_line)
