"""The rules, one file per group of rungs: functions from an examination to findings."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from .....core.findings import Finding
from ..examination import Examination
from . import addresses, code, conflicts, enabling, guards, listing, places, records, serving, sources, templates

RuleFunction = Callable[[Examination], Iterator[Finding]]

STATIC: tuple[RuleFunction, ...] = (
    *sources.STATIC,
    *listing.STATIC,
    *conflicts.STATIC,
    *code.STATIC,
    *records.STATIC,
    *addresses.STATIC,
    *guards.STATIC,
    *places.STATIC,
    *templates.STATIC,
)
LIVE: tuple[RuleFunction, ...] = (
    *enabling.LIVE,
    *records.LIVE,
    *addresses.LIVE,
    *serving.LIVE,
    *guards.LIVE,
)
