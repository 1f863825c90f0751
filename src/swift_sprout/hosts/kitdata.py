"""The data half of a kit: ``kit.toml`` and ``rules.toml`` in the kit's folder."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Iterable
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from ..core.findings import RuleBook

KIT_FORMAT = "swift-sprout/kit/1"
NEEDED = ("id", "title", "sort", "checked", "works", "needs", "recognise", "naming", "parts", "rungs", "file")


class KitData:
    """What a kit says in its ``kit.toml``; ``raw`` is all of it, ``folder`` where it lies."""

    def __init__(self, folder: Path, raw: dict[str, Any]) -> None:
        self.folder = folder
        self.raw = raw

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

        return RuleBook(rules_from(tomllib.loads((self.folder / "rules.toml").read_text("utf-8"))))

    def refuse_what_is_not_carried(self, kinds: Iterable[str]) -> None:
        """Raise WrongUse for the first kind of part that modules of this kind cannot carry, naming the nearest."""
        from ..core.errors import WrongUse
        from ..core.nearest import did_you_mean

        for kind in kinds:
            if kind not in self.parts:
                remedy = self.raw.get("instead", {}).get(kind, "") or did_you_mean(kind, self.parts)
                raise WrongUse("part-not-carried", f"{self.title} modules carry no {kind}.", remedy)

    def unsure_about(self, version: str) -> list[str]:
        """Return what to say of a host version that lies outside of the range; nothing for one inside, or unknown."""
        if not version or self.in_range(version):
            return []
        return [f"{self.title} {version} is outside the checked range {self.raw['works']}; rules may be unsure."]

    def in_range(self, version: str) -> bool:
        """True when a host version lies in the range that the kit works for."""
        return matches(version, self.raw["works"])


def load_kit_data(folder: Path) -> KitData:
    """Read the data of a kit's folder; raises WrongUse for a kit file that is wrong, naming its place."""
    path = folder / "kit.toml"
    try:
        raw = tomllib.loads(path.read_text("utf-8"))
    except (OSError, ValueError) as error:
        line = re.search(r"at line (\d+)", str(error))
        place = f"{path}:{line.group(1)}" if line else str(path)
        raise _wrong(f"{place}: this kit cannot be read: {error}.", "Mend it, or take its package away.") from None
    if raw.get("format") != KIT_FORMAT:
        raise _wrong(f"{path}: its format is {raw.get('format')!r}.", f'This version reads "{KIT_FORMAT}".')
    absent = [key for key in NEEDED if key not in raw]
    if absent:
        raise _wrong(f"{path}: the kit does not say {', '.join(absent)}.", "See docs/kits.md.")
    return KitData(folder, raw)


def recognised(kit_folder: Path, folder: Path) -> bool:
    """True when a folder holds the file that a kit's data name under ``[recognise]``, with the text that it must hold.

    Of the data only that table is read: every command asks every kit.
    """
    text = (kit_folder / "kit.toml").read_text("utf-8")
    begins = text.index("[recognise]")
    ends = text.find("\n[", begins)
    known = tomllib.loads(text[begins : ends if ends > 0 else None])["recognise"]
    path = folder / known["file"]
    try:
        return path.is_file() and known.get("holds", "") in path.read_text("utf-8", "replace")
    except OSError:
        return False


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
