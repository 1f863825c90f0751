"""The data half of a kit: ``kit.toml`` and ``rules.toml`` in the kit's folder."""

from __future__ import annotations

import tomllib
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from ..core.findings import RuleBook

KIT_FORMAT = "swift-sprout/kit/1"


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

    def in_range(self, version: str) -> bool:
        """True when a host version lies in the range that the kit works for."""
        return matches(version, self.raw["works"])


def load_kit_data(folder: Path) -> KitData:
    """Read the data of a kit's folder."""
    return KitData(folder, tomllib.loads((folder / "kit.toml").read_text("utf-8")))


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
    import re

    return tuple(int(part) for part in re.findall(r"\d+", version.split("rc")[0].split("a")[0].split("b")[0]))
