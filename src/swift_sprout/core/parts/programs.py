"""What runs without a page: console commands, services, and listeners to events of the host."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Any, NamedTuple

from ..errors import WrongUse
from ..fields import Field, parse_field, spell_field
from ..names import NameFamily, name_family
from ..nearest import did_you_mean
from .kinds import Contradiction, Kind, no_record
from .lines import read_line
from .rights import same_name

if TYPE_CHECKING:
    from ..brief import Brief

#  what every kit can hand to a service beside the module's own records and services
HANDED_IN = ("clock", "settings", "mail", "log")
EVENTS = (
    "record saved",
    "record deleted",
    "signed in",
    "signed out",
    "sign-in failed",
    "request finished",
    "module settled",
    "order placed",
)
ARGUMENT_TYPES = ("text", "integer", "decimal", "number", "yes/no", "date", "choice")


class Command(NamedTuple):
    """A console command.

    positional, named -- its parameters; lists -- a record whose rows it prints, empty for none
    """

    name: NameFamily
    summary: str = ""
    lists: str = ""
    positional: tuple[Field, ...] = ()
    named: tuple[Field, ...] = ()

    @property
    def key(self) -> str:
        """What tells it from other commands."""
        return self.name.snake


class Service(NamedTuple):
    """A class that does work, with what it needs handed in: records, other services, or what HANDED_IN names."""

    name: NameFamily
    summary: str = ""
    uses: tuple[str, ...] = ()

    @property
    def key(self) -> str:
        """What tells it from other services."""
        return self.name.snake


class Listener(NamedTuple):
    """A function that the host calls on an event; ``of`` is the record for events about records."""

    name: NameFamily
    on: str
    of: str = ""

    @property
    def key(self) -> str:
        """What tells it from other listeners."""
        return self.name.snake


def _make_command(entry: dict[str, Any]) -> Command:
    positional = tuple(_parameter(text) for text in entry.get("positional", ()))
    named = tuple(_parameter(text) for text in entry.get("named", ()))
    name = name_family(entry["name"], what="command")
    return Command(name, entry.get("summary", ""), entry.get("lists", ""), positional, named)


def _parameter(text: str) -> Field:
    field = parse_field(text)
    if field.type not in ARGUMENT_TYPES:
        raise WrongUse(
            "command-parameter",
            f"The parameter {field.name!r} of a command cannot be of type {field.type}.",
            did_you_mean(field.type, ARGUMENT_TYPES),
        )
    return field


def _command_data(command: Command) -> dict[str, Any]:
    data: dict[str, Any] = {"name": command.name.title}
    for key in ("summary", "lists"):
        if getattr(command, key):
            data[key] = getattr(command, key)
    for key in ("positional", "named"):
        if getattr(command, key):
            data[key] = [spell_field(one) for one in getattr(command, key)]
    return data


def _command_against(command: Command, brief: Brief) -> Iterator[Contradiction]:
    yield from no_record(brief, "lists", command.lists, f"the command {command.name.title!r}")
    names = [field.name for field in (*command.positional, *command.named)]
    for name in sorted({name for name in names if names.count(name) > 1}):
        yield Contradiction(
            "named", f"the command {command.name.title!r} has the parameter {name!r} twice", "Rename one."
        )
    seen = ""
    for field in command.positional:
        if seen and not (field.optional or field.default is not None):
            yield Contradiction(
                "positional",
                f"{field.name!r} must be given but stands after {seen!r}, which may be left out",
                "Swap them.",
            )
        seen = field.name if field.optional or field.default is not None else seen


def _make_service(entry: dict[str, Any]) -> Service:
    return Service(name_family(entry["name"], what="service"), entry.get("summary", ""), tuple(entry.get("uses", ())))


def _service_data(service: Service) -> dict[str, Any]:
    data: dict[str, Any] = {"name": service.name.title}
    if service.summary:
        data["summary"] = service.summary
    return data | ({"uses": list(service.uses)} if service.uses else {})


def _service_against(service: Service, brief: Brief) -> Iterator[Contradiction]:
    services = [one.name.title for one in brief.services]
    records = [one.name.title for one in brief.records]
    for name in service.uses:
        if name not in HANDED_IN and not brief.record(name) and not any(same_name(name, one) for one in services):
            yield Contradiction(
                "uses",
                f"the service {service.name.title!r} uses {name!r}, which is neither a record nor a service",
                did_you_mean(name, [*records, *services, *HANDED_IN]),
            )
        if same_name(name, service.name.title) or _reaches(brief, name, service):
            yield Contradiction("uses", f"the service {service.name.title!r} needs itself", "Take one use out.")


def _reaches(brief: Brief, name: str, wanted: Service) -> bool:
    seen: set[str] = set()
    waiting = [name]
    while waiting:
        one = next((held for held in brief.services if same_name(held.name.title, waiting[-1])), None)
        waiting.pop()
        if one is None or one.key in seen:
            continue
        if one.key == wanted.key:
            return True
        seen.add(one.key)
        waiting += one.uses
    return False


def _make_listener(entry: dict[str, Any]) -> Listener:
    on = " ".join(entry["on"].split())
    if on not in EVENTS:
        raise WrongUse("listener-event", f"There is no event {on!r}.", did_you_mean(on, EVENTS))
    if on.startswith("record ") and not entry.get("of"):
        raise WrongUse("listener-event", f"The event {on!r} is about a record.", 'Say which: of = "…".')
    return Listener(name_family(entry["name"], what="listener"), on, entry.get("of", ""))


def _listener_data(listener: Listener) -> dict[str, Any]:
    return {"name": listener.name.title, "on": listener.on} | ({"of": listener.of} if listener.of else {})


def _listener_against(listener: Listener, brief: Brief) -> Iterator[Contradiction]:
    if "." not in listener.of:
        yield from no_record(brief, "of", listener.of, f"the listener {listener.name.title!r}")


_COMMAND = {"name": "text", "summary": "text", "lists": "text", "positional": "list", "named": "list"}
_SERVICE = {"name": "text", "summary": "text", "uses": "list"}
_LISTENER = {"name": "text", "on": "text", "of": "text"}

MAKES = {
    "command": Kind(
        "command",
        _COMMAND,
        ("name",),
        _make_command,
        _command_data,
        _command_against,
        'List berths: Prints the berths, lists Berth, named "limit: integer, default 20"',
        lambda text: read_line("command", "name", "summary", _COMMAND, text),
    ),
    "service": Kind(
        "service",
        _SERVICE,
        ("name",),
        _make_service,
        _service_data,
        _service_against,
        "Berth finder: Finds a free berth, uses Berth, uses clock",
        lambda text: read_line("service", "name", "summary", _SERVICE, text),
    ),
    "listener": Kind(
        "listener",
        _LISTENER,
        ("name", "on"),
        _make_listener,
        _listener_data,
        _listener_against,
        "Note a booking, on record saved, of Booking",
        lambda text: read_line("listener", "name", "", _LISTENER, text),
    ),
}
