"""Permissions and groups."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Any, NamedTuple

from ..errors import WrongUse
from ..names import NameFamily, name_family
from ..nearest import did_you_mean
from .kinds import Contradiction, Kind, no_record
from .lines import read_line

if TYPE_CHECKING:
    from ..brief import Brief

VERBS = ("read", "create", "change", "delete")


class Permission(NamedTuple):
    """A right beside the four that every record has; ``on`` is the record that carries it, empty for the first."""

    name: NameFamily
    on: str = ""

    @property
    def key(self) -> str:
        """What tells it from other permissions."""
        return self.name.snake


class Group(NamedTuple):
    """A group of users and its rights.

    may      -- record and verbs, in the order of the brief
    also     -- names of permissions beside the verbs
    includes -- names of groups whose rights it has as well
    """

    name: NameFamily
    may: tuple[tuple[str, tuple[str, ...]], ...] = ()
    also: tuple[str, ...] = ()
    includes: tuple[str, ...] = ()

    @property
    def key(self) -> str:
        """What tells it from other groups."""
        return self.name.snake


def same_name(left: str, right: str) -> bool:
    """True when two texts spell one name."""
    return _squeezed(left) == _squeezed(right)


def _squeezed(text: str) -> str:
    return "".join(letter for letter in text.lower() if letter.isalnum())


def _make_permission(entry: dict[str, Any]) -> Permission:
    return Permission(name_family(entry["name"], what="permission"), entry.get("on", ""))


def _permission_data(permission: Permission) -> dict[str, Any]:
    return {"name": permission.name.title} | ({"on": permission.on} if permission.on else {})


def _permission_against(permission: Permission, brief: Brief) -> Iterator[Contradiction]:
    yield from no_record(brief, "on", permission.on, f"the permission {permission.name.title!r}")
    if not brief.records:
        yield Contradiction(
            "name",
            f"the permission {permission.name.title!r} has no record to stand on",
            "Add a record first: a permission is kept with one.",
        )
    for record in brief.records:
        for verb in ("view", "add", "change", "delete"):
            if permission.key == f"{verb}_{record.name.camel.lower()}":
                yield Contradiction(
                    "name", f"{permission.name.title!r} is a right that the record has anyway", "Leave it out."
                )


def _make_group(entry: dict[str, Any]) -> Group:
    may = []
    for record, said in entry.get("may", {}).items():
        verbs = tuple(VERBS) if said.strip() == "all" else tuple(said.replace(",", " ").split())
        for verb in verbs:
            if verb not in VERBS:
                raise WrongUse("group-verb", f"{verb!r} is no right.", did_you_mean(verb, (*VERBS, "all")))
        may.append((record, tuple(verb for verb in VERBS if verb in verbs)))
    name = name_family(entry["name"], what="group")
    return Group(name, tuple(may), tuple(entry.get("also", ())), tuple(entry.get("includes", ())))


def _group_data(group: Group) -> dict[str, Any]:
    data: dict[str, Any] = {"name": group.name.title}
    if group.may:
        data["may"] = {record: " ".join(verbs) for record, verbs in group.may}
    for key in ("also", "includes"):
        if getattr(group, key):
            data[key] = list(getattr(group, key))
    return data


def _group_against(group: Group, brief: Brief) -> Iterator[Contradiction]:
    who = f"the group {group.name.title!r}"
    for record, _ in group.may:
        yield from no_record(brief, "may", record, who)
    for name in group.also:
        if not any(same_name(one.name.title, name) for one in brief.permissions):
            known = [one.name.title for one in brief.permissions]
            yield Contradiction(
                "also", f"{who} names the permission {name!r}, which does not exist", did_you_mean(name, known)
            )
    for name in group.includes:
        if not any(same_name(one.name.title, name) for one in brief.groups):
            known = [one.name.title for one in brief.groups]
            yield Contradiction("includes", f"{who} includes {name!r}, which does not exist", did_you_mean(name, known))
    if _includes_itself(group, brief):
        yield Contradiction("includes", f"{who} includes itself, over others or directly", "Take one inclusion out.")


def _includes_itself(group: Group, brief: Brief) -> bool:
    seen: set[str] = set()
    waiting = list(group.includes)
    while waiting:
        name = waiting.pop()
        if same_name(name, group.name.title):
            return True
        if _squeezed(name) not in seen:
            seen.add(_squeezed(name))
            waiting += [inner for one in brief.groups if same_name(one.name.title, name) for inner in one.includes]
    return False


_RIGHT_SHAPE = {"name": "text", "on": "text"}
_GROUP_SHAPE = {"name": "text", "may": "table", "also": "list", "includes": "list"}


def _group_line(text: str) -> dict[str, Any]:
    """Read a group; its rights are said as people say them: ``may read create Berth``."""
    entry = read_line("group", "name", "", {**_GROUP_SHAPE, "may": "list"}, text)
    rights: dict[str, str] = {}
    for said in entry.pop("may", []):
        words = said.split()
        verbs = [word for word in words if word in (*VERBS, "all")]
        record = " ".join(word for word in words if word not in verbs)
        if not verbs or not record:
            raise WrongUse(
                "group-verb", f"may {said!r} does not name both rights and a record.", 'Write "may read create Berth".'
            )
        rights[record] = " ".join(filter(None, (rights.get(record, ""), *verbs)))
    return {**entry, "may": rights} if rights else entry


MAKES = {
    "permission": Kind(
        "permission",
        _RIGHT_SHAPE,
        ("name",),
        _make_permission,
        _permission_data,
        _permission_against,
        "Close a berth, on Berth",
        lambda text: read_line("permission", "name", "", _RIGHT_SHAPE, text),
    ),
    "group": Kind(
        "group",
        _GROUP_SHAPE,
        ("name",),
        _make_group,
        _group_data,
        _group_against,
        "Harbour clerks, may read create change Booking, may read Berth",
        _group_line,
    ),
}
