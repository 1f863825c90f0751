"""The data half of a kit: ``kit.toml`` and ``rules.toml`` in the kit's folder, read into typed sections."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from functools import cached_property
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar, cast

import tomli

from ...core.errors import WrongUse
from ...core.nearest import did_you_mean
from ...core.parts.kinds import add_kind
from ...core.parts.own import kind_of
from ...core.sections import TableWrong, fields_of, section_from
from .kitfacts import KitFacts

if TYPE_CHECKING:
    from ...core.findings import RuleBook

KIT_FORMAT = "swift-sprout/kit/1"
#  the group of entry points under which packages bring kits, each by the id of its kit
ENTRY_POINTS = "swift_sprout.kits"
Section = TypeVar("Section")


class KitData:
    """What a kit says in its ``kit.toml``.

    folder   -- where it lies
    facts    -- what every kit says
    sections -- by their names in the file: the types of what kits of a family, or this one alone, say beside
    base     -- the kit that it builds on, whose data it has as well where it says nothing else; None for none
    """

    def __init__(
        self, folder: Path, table: dict[str, Any], sections: Mapping[str, type], base: KitData | None = None
    ) -> None:
        self.folder = folder
        self.table = table
        self.base = base
        self.sections: dict[str, type] = {**(base.sections if base is not None else {}), **sections}
        common = {key: value for key, value in table.items() if key not in self.sections}
        known = [*fields_of(KitFacts), *self.sections]
        for key in common:
            if key not in known:
                raise TableWrong(key, "unknown key", did_you_mean(key, known))
        self.facts = section_from(KitFacts, common)
        for name, own in self.facts.own_part.items():
            if not set(own.needed) <= set(own.keys) or not own.needed or (own.rest and own.rest not in own.keys):
                raise TableWrong(f"own_part.{name}.needed", "an unknown key", f"Known: {', '.join(own.keys)}.")
            add_kind(kind_of(name, own))
        self._by_type: dict[type, Any] = {
            kind: section_from(kind, table.get(name, {}), name) for name, kind in self.sections.items()
        }

    def section(self, kind: type[Section]) -> Section:
        """Return a section that this kit, or one that it builds on, has by its type."""
        return cast(Section, self._by_type[kind])

    @property
    def folders(self) -> list[Path]:
        """Where its files are looked for: its own folder, then those of the kits that it builds on."""
        return [self.folder, *(self.base.folders if self.base is not None else ())]

    @property
    def ids(self) -> list[str]:
        """Its id, and those of the kits that it builds on."""
        return [self.id, *(self.base.ids if self.base is not None else ())]

    @property
    def id(self) -> str:
        """The kit's id, as ``--kit`` takes it."""
        return self.facts.id

    @property
    def title(self) -> str:
        """The host kind's name for people."""
        return self.facts.title

    @property
    def parts(self) -> Mapping[str, str]:
        """The parts that modules of this kind can carry, each with what it becomes."""
        return self.facts.parts

    @property
    def checked(self) -> tuple[str, ...]:
        """The minor versions that the kit was checked on."""
        return self.facts.checked

    @cached_property
    def rules(self) -> RuleBook:
        """The causes that the kit knows; raises WrongUse for a rules file that is wrong, naming its place."""
        from ...core.findings import RuleBook, rules_from

        path = self.folder / "rules.toml"
        try:
            own = rules_from(_parsed(path))
        except TableWrong as error:
            raise _wrong(f"{path}: {error}.", error.remedy) from None
        below = [*self.base.rules] if self.base is not None else []
        for code in {rule.code for rule in below} & {rule.code for rule in own}:
            raise _wrong(f"{path}: {code}: the kit below has a rule of that code.", "Give it another code.")
        known = [*below, *own]
        more = self.facts.follows  # what explains rules of the kit below away here
        return RuleBook(rule._replace(follows=(*rule.follows, *more.get(rule.code, ()))) for rule in known)

    def refuse_what_is_not_carried(self, kinds: Iterable[str]) -> None:
        """Raise WrongUse for the first kind of part that modules of this kind cannot carry, naming the nearest."""
        for kind in kinds:
            if kind not in self.parts:
                remedy = self.facts.instead.get(kind, "") or did_you_mean(kind, self.parts)
                raise WrongUse("part-not-carried", f"{self.title} modules carry no {kind}.", remedy)

    def unsure_about(self, version: str) -> list[str]:
        """Return what to say of a host version that lies outside of the range; nothing for one inside, or unknown."""
        if not version or self.in_range(version):
            return []
        return [
            f"{self.title} {version} is outside the checked range {self.facts.works}: unsure are the rules that rest "
            "on files alone; what the running host answers holds as it says."
        ]

    def in_range(self, version: str) -> bool:
        """True when a host version lies in the range that the kit works for."""
        return matches(version, self.facts.works)


def load_kit_data(folder: Path, **sections: type) -> KitData:
    """Read the data of a kit's folder; raises WrongUse for a kit file that is wrong, naming its place.

    sections -- the types of the tables that only this kit, or its family, has, by the names of the tables
    """
    path = folder / "kit.toml"
    table = _parsed(path)
    if table.get("format") != KIT_FORMAT:
        raise _wrong(f"{path}: its format is {table.get('format')!r}.", f'This version reads "{KIT_FORMAT}".')
    base = None
    if "builds_on" in table:
        below = str(table["builds_on"])
        found = _kit_below(below)
        if found is None:
            raise _wrong(
                f"{path}: it builds on {below!r}, which is no kit here.", "Name a kit, or install its package."
            )
        base = cast(KitData, found.data)
        table = laid_over(base.table, table)
    try:
        return KitData(folder, table, sections, base)
    except TableWrong as error:
        raise _wrong(f"{path}: {error}.", error.remedy) from None


def _kit_below(name: str) -> Any:
    """Return the kit of an id that another builds on: one of our own, or one that a package brings; None for none."""
    if (Path(__file__).parent.parent / "kits" / name / "kit.toml").is_file():
        return import_module(f"swift_sprout.hosts.kits.{name}.kit").KIT
    from importlib.metadata import entry_points

    return next((point.load() for point in entry_points(group=ENTRY_POINTS, name=name)), None)


def event_named(events: Mapping[str, Section], title: str, name: str, listener: str) -> Section:
    """Return what a kit says of an event; raises WrongUse, naming those it knows, when modules do not hear it."""
    if name not in events:
        raise WrongUse(
            "event-not-carried",
            f"The listener {listener!r}: {title} modules do not hear {name!r}.",
            f"Known here: {', '.join(events)}.",
        )
    return events[name]


def _parsed(path: Path) -> dict[str, Any]:
    try:
        return tomli.loads(path.read_text("utf-8"))
    except (OSError, ValueError) as error:
        line = re.search(r"at line (\d+)", str(error))
        place = f"{path}:{line.group(1)}" if line else str(path)
        raise _wrong(f"{place}: this kit cannot be read: {error}.", "Fix it, or take its package away.") from None


def laid_over(below: dict[str, Any], above: dict[str, Any]) -> dict[str, Any]:
    """Return the data of a kit laid over those of the kit that it builds on.

    Tables are joined key by key; of ``[[file]]`` one that writes the same takes the other's place; what is in order,
    such as ``[[refresh]]``, comes first; all else is what the upper one says.
    """
    found = dict(below)
    for key, value in above.items():
        if isinstance(value, dict) and isinstance(below.get(key), dict):
            found[key] = laid_over(below[key], value) if key != "recognise" else value
        elif key == "file":
            written = {entry["writes"] for entry in value}
            found[key] = [entry for entry in below.get(key, ()) if entry["writes"] not in written] + value
        elif key == "refresh":
            found[key] = [*value, *below.get(key, ())]
        else:
            found[key] = value
    return found


def _wrong(sentence: str, remedy: str) -> Exception:
    return WrongUse("kit-wrong", sentence, remedy)


def matches(version: str, wanted: str) -> bool:
    """True when a version meets conditions such as ``>=5.2,<5.3``; an empty condition is always met."""
    for condition in filter(None, (one.strip() for one in wanted.split(","))):
        sign = condition.rstrip("0123456789.abrcdev ")
        bound = _numbers(condition[len(sign) :])
        here = _numbers(version)[: len(bound)] if sign == "==" else _numbers(version)
        if not {
            ">=": here >= bound,
            ">": here > bound,
            "<=": here <= bound,
            "<": here < bound,
            "==": here == bound,
            "!=": here != bound,
        }.get(sign, False):
            return False
    return True


def _numbers(version: str) -> tuple[int, ...]:
    return tuple(int(part) for part in re.findall(r"\d+", version.split("rc")[0].split("a")[0].split("b")[0]))
