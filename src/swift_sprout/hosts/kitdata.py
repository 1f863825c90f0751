"""The data half of a kit: ``kit.toml`` and ``rules.toml`` in the kit's folder."""

from __future__ import annotations

import os
import re
from collections.abc import Iterable
from functools import cache, cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

import tomli

if TYPE_CHECKING:
    from ..core.findings import RuleBook

KIT_FORMAT = "swift-sprout/kit/1"
NEEDED = ("id", "title", "sort", "checked", "works", "needs", "recognise", "naming", "parts", "rungs", "file")


class KitData:
    """What a kit says in its ``kit.toml``; ``raw`` is all of it, ``folder`` where it lies.

    base -- the kit that it builds on, whose data it has as well where it says nothing else; None for none
    """

    def __init__(self, folder: Path, raw: dict[str, Any], base: KitData | None = None) -> None:
        self.folder = folder
        self.raw = raw
        self.base = base

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
        return str(self.raw["id"])

    @property
    def title(self) -> str:
        """The host kind's name for people."""
        return str(self.raw["title"])

    @property
    def parts(self) -> dict[str, str]:
        """The parts that modules of this kind can carry, each with what it becomes."""
        return dict(self.raw["parts"])

    @property
    def checked(self) -> list[str]:
        """The minor versions that the kit was checked on."""
        return list(self.raw["checked"])

    @cached_property
    def rules(self) -> RuleBook:
        """The causes that the kit knows."""
        from ..core.findings import RuleBook, rules_from

        own = rules_from(tomli.loads((self.folder / "rules.toml").read_text("utf-8")))
        known = [*(self.base.rules if self.base is not None else ()), *own]
        more: dict[str, list[str]] = self.raw.get("follows", {})  # what explains rules of the kit below away here
        return RuleBook(rule._replace(follows=(*rule.follows, *more.get(rule.code, ()))) for rule in known)

    def refuse_what_is_not_carried(self, kinds: Iterable[str]) -> None:
        """Raise WrongUse for the first kind of part that modules of this kind cannot carry, naming the nearest."""
        from ..core.errors import WrongUse
        from ..core.nearest import did_you_mean

        for kind in kinds:
            if kind not in self.parts:
                remedy = self.raw.get("instead", {}).get(kind, "") or did_you_mean(kind, self.parts)
                raise WrongUse("part-not-carried", f"{self.title} modules carry no {kind}.", remedy)

    def event(self, name: str, listener: str) -> dict[str, Any]:
        """Return what the kit says of an event; raises WrongUse, naming those it knows, when modules do not hear it."""
        from ..core.errors import WrongUse

        events = self.raw["events"]
        if name not in events:
            raise WrongUse(
                "event-not-carried",
                f"The listener {listener!r}: {self.title} modules do not hear {name!r}.",
                f"Known here: {', '.join(events)}.",
            )
        found: dict[str, Any] = events[name]
        return found

    def unsure_about(self, version: str) -> list[str]:
        """Return what to say of a host version that lies outside of the range; nothing for one inside, or unknown."""
        if not version or self.in_range(version):
            return []
        return [
            f"{self.title} {version} is outside the checked range {self.raw['works']}: unsure are the rules that rest "
            "on files alone; what the running host answers holds as it says."
        ]

    def in_range(self, version: str) -> bool:
        """True when a host version lies in the range that the kit works for."""
        return matches(version, self.raw["works"])


def load_kit_data(folder: Path) -> KitData:
    """Read the data of a kit's folder; raises WrongUse for a kit file that is wrong, naming its place."""
    path = folder / "kit.toml"
    try:
        raw = tomli.loads(path.read_text("utf-8"))
    except (OSError, ValueError) as error:
        line = re.search(r"at line (\d+)", str(error))
        place = f"{path}:{line.group(1)}" if line else str(path)
        raise _wrong(f"{place}: this kit cannot be read: {error}.", "Mend it, or take its package away.") from None
    if raw.get("format") != KIT_FORMAT:
        raise _wrong(f"{path}: its format is {raw.get('format')!r}.", f'This version reads "{KIT_FORMAT}".')
    base = None
    if "builds_on" in raw:
        below = Path(__file__).parent / str(raw["builds_on"])
        if not (below / "kit.toml").is_file():
            raise _wrong(
                f"{path}: it builds on {raw['builds_on']!r}, which is no kit here.", "Name one of our own kits."
            )
        base = load_kit_data(below)
        raw = laid_over(base.raw, raw)
    absent = [key for key in NEEDED if key not in raw]
    if absent:
        raise _wrong(f"{path}: the kit does not say {', '.join(absent)}.", "See docs/kits.md.")
    return KitData(folder, raw, base)


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


def recognised(kit_folder: Path, folder: Path) -> bool:
    """True when a folder holds the file that a kit's data name under ``[recognise]``, with the text that it must hold.

    Where the table says ``within`` (patterns of further files) and ``says``, one of those must hold that text as well.
    Of the data only that table is read: every command asks every kit.
    """
    text = (kit_folder / "kit.toml").read_text("utf-8")
    begins = text.index("[recognise]")
    ends = text.find("\n[", begins)
    known = tomli.loads(text[begins : ends if ends > 0 else None])["recognise"]
    path = folder / known["file"]
    try:
        if not path.is_file() or known.get("holds", "") not in path.read_text("utf-8", "replace"):
            return False
        further = [path for pattern in known.get("within", ()) for path in _matching(str(folder), pattern)]
        return "within" not in known or any(known["says"] in _text(path) for path in further)
    except OSError:
        return False


def look_afresh() -> None:
    """Forget the files that kits were recognised by before: they may have changed since."""
    _matching.cache_clear()
    _names_in.cache_clear()
    _text.cache_clear()


_WILD = re.compile(r"[*?[]")


@cache
def _matching(folder: str, pattern: str) -> list[str]:
    """Return what lies in a folder and matches a pattern, such as ``*/settings.py``; hidden names never do."""
    first, _, rest = pattern.partition("/")
    places = [f"{folder}/{name}" for name in _fitting(_names_in(folder), first)]
    if not rest:
        return places
    if "/" in rest:
        return [path for place in places for path in _matching(place, rest)]
    return [f"{place}/{name}" for place in places for name in _fitting(_names_in(place), rest)]


def _fitting(names: list[str], pattern: str) -> list[str]:
    """Return the names that match one step of a pattern."""
    begins = _beginning(pattern)
    if begins == pattern:
        return [pattern] if pattern in names else []
    if pattern != "*":
        names = [name for name in names if name.startswith(begins)]  # few do, and looking at all of it takes longer
    if not names or pattern == "*":
        return names
    from fnmatch import filter

    return filter(names, pattern)


@cache
def _beginning(pattern: str) -> str:
    return _WILD.split(pattern, maxsplit=1)[0]


@cache
def _names_in(folder: str) -> list[str]:
    """Return the names in a folder that are not hidden; several kits ask the same, and hosts may be large."""
    try:
        return [name for name in os.listdir(folder) if name[0] != "."]
    except OSError:
        return []


@cache
def _text(path: str) -> str:
    with open(path, encoding="utf-8", errors="replace") as handle:
        return handle.read()


def _wrong(sentence: str, remedy: str) -> Exception:
    from ..core.errors import WrongUse

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
