"""What a module rests on must be there before anything is written: modules that it needs, records it points at."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import cached_property

from ..core.brief import BRIEF_FILE, Brief
from ..core.errors import Problem, Refused, SproutError
from ..core.nearest import did_you_mean, misspelt
from ..core.parts.placing import Placement
from ..hosts.contract.host import Host
from .hosting import OpenHost


class Ground:
    """The modules and records of a host that others can rest on; ``beside`` are briefs that are made with them."""

    def __init__(self, opened: OpenHost, beside: Sequence[Brief] = ()) -> None:
        self._host = opened.host
        self._beside = {_plain(one.name.snake): one for one in beside}

    @cached_property
    def _own(self) -> dict[str, str]:
        """The host's own modules, by their plain labels and names."""
        return {_plain(said): one.name for one in self._host.modules() for said in (one.name, one.label)}

    @cached_property
    def _names(self) -> frozenset[str]:
        return self._host.names_to_need() | {one.name.snake for one in self._beside.values()}

    @cached_property
    def _plain_names(self) -> frozenset[str]:
        return frozenset(map(_plain, self._names))

    def with_needs(self, brief: Brief) -> Brief:
        """Return a brief that says as well that it needs the modules whose records its own point at."""
        said = {_plain(need) for need in brief.needs}
        there = {*self._own, *self._beside} - said
        pointed_at = dict.fromkeys(module for _, module, _ in _pointed_at(brief) if _plain(module) in there)
        return brief._replace(needs=(*brief.needs, *pointed_at)) if pointed_at else brief

    def refuse_what_is_absent(self, brief: Brief, doing: str) -> None:
        """Raise Refused where a brief names modules or records that are not there, with the nearest that are.

        doing -- what is being done, for the sentence: ``made``, ``enabled``
        """
        pointed_at = _pointed_at(brief)
        if not brief.needs and not pointed_at:
            return
        found = [
            Problem(f"needs {need}", "this host has no such module", did_you_mean(need, self._names))
            for need in brief.needs
            if _plain(need) not in self._plain_names
        ]
        for place, module, record in pointed_at:
            if _plain(module) not in self._plain_names:
                near = misspelt(module, self._names)
                if near:
                    what = f"{module}.{record} is of a module that this host does not have"
                    found.append(Problem(place, what, f"Nearest known: {near}."))
                continue
            records, certain = self._records(_plain(module))
            absent = _plain(record) not in map(_plain, records)
            if absent and (certain or misspelt(record, records)):  # code by hand may hold more than is read
                found.append(Problem(place, f"{module} has no record {record}", did_you_mean(record, records)))
        if found:
            raise Refused(
                "rests-on-absent",
                f"{brief.name.title} cannot be {doing}: it needs what does not exist here; nothing was changed.",
                "Fix what is listed in the brief, or make that first.",
                tuple(found),
            )

    def refuse_unseen(self, brief: Brief, placements: Sequence[Placement]) -> None:
        """Raise an error for placements that nobody would see; those in what is made now are not there to be asked."""
        made_now = {self._host.label(one.name) for one in (brief, *self._beside.values())}
        self._host.refuse_unseen(
            [one for one in placements if one.published and one.place.partition("/")[0] not in made_now]
        )

    def _records(self, module: str) -> tuple[list[str], bool]:
        """Return the records of a module, and whether these are all: those of a brief that is written down."""
        if module in self._beside:
            return [record.name.title for record in self._beside[module].records], True
        if module not in self._own:
            return [], False
        try:
            read = self._host.read_brief(self._own[module])
        except SproutError:
            return [], False
        return [record.name.title for record in read.brief.records], has_brief(self._host, self._own[module])


def has_brief(host: Host, module: str) -> bool:
    """True for a module whose brief is written down."""
    try:
        return (host.root / host.folder(module) / BRIEF_FILE).is_file()
    except SproutError:  # one that has no folder
        return False


def _pointed_at(brief: Brief) -> list[tuple[str, str, str]]:
    """Return the records of other modules that records of a brief point at: the field, the module, the record."""
    return [
        (f"{record.name.title}.{field.name}", *field.target.split(".", 1))  # type: ignore[misc]
        for record in brief.records
        for field in record.fields
        if field.is_relation and "." in field.target
    ]


def _plain(name: str) -> str:
    """Return a name without what hosts spell in their own ways."""
    return re.sub(r"[\s_-]", "", name).lower()
