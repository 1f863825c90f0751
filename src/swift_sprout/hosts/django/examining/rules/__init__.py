"""The rules, one file per group of rungs: functions from an examination to findings."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from .....core.findings import Finding
from ..examination import Examination
from . import addresses, enabling, listing, records, serving

RuleFunction = Callable[[Examination], Iterator[Finding]]

STATIC: tuple[RuleFunction, ...] = (*listing.RULES, *enabling.STATIC, *records.STATIC, *addresses.STATIC)
LIVE: tuple[RuleFunction, ...] = (*enabling.LIVE, *records.LIVE, *addresses.LIVE, *serving.LIVE)
