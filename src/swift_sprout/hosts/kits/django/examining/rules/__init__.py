"""The rules, one file per group of rungs: functions from an examination to findings."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from ......core.findings import Finding
from ..examination import Examination
from . import (
    addresses,
    closer,
    code,
    conflicts,
    contents,
    enabling,
    fields,
    forms,
    guards,
    imports,
    listing,
    menus,
    needs,
    parts,
    patterns,
    places,
    preferences,
    records,
    relations,
    returns,
    rights,
    serving,
    sources,
    templates,
)

RuleFunction = Callable[[Examination], Iterator[Finding]]

STATIC: tuple[RuleFunction, ...] = (
    *sources.STATIC,
    *listing.STATIC,
    *conflicts.STATIC,
    *code.STATIC,
    *imports.STATIC,
    *records.STATIC,
    *relations.STATIC,
    *fields.STATIC,
    *preferences.STATIC,
    *addresses.STATIC,
    *patterns.STATIC,
    *guards.STATIC,
    *places.STATIC,
    *templates.STATIC,
    *returns.STATIC,
    *forms.STATIC,
    *parts.STATIC,
    *needs.STATIC,
    *rights.STATIC,
    *menus.STATIC,
    *contents.STATIC,
)
#  rules about files whose answer changes with what the running host says
WITH_LIVE: tuple[RuleFunction, ...] = (listing.registration, addresses.included, places.libraries_off)
LIVE: tuple[RuleFunction, ...] = (
    *enabling.LIVE,
    *relations.LIVE,
    *preferences.LIVE,
    *records.LIVE,
    *addresses.LIVE,
    *serving.LIVE,
    *guards.LIVE,
    *rights.LIVE,
    *closer.LIVE,
    *forms.LIVE,
)
