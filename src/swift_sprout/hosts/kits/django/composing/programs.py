"""Console commands, services and listeners."""

from __future__ import annotations

from .....core.brief import Brief
from .....core.fields import Field
from .....core.parts.programs import Command, Service
from .....core.parts.rights import same_name
from ....contract.kitdata import KitData, event_named
from ....shared.rendering import python_docstring, python_text
from ..facts import django
from .records import default_of
from .shared import Values, lines

_READERS = {
    "integer": "int",
    "decimal": "Decimal",
    "number": "float",
    "date": "datetime.date.fromisoformat",
}
#  what a service can be handed: the parameter's name, and the code that makes it
_HANDED_IN = {
    "clock": ("clock", "timezone.now"),
    "settings": ("settings", "settings"),
    "mail": ("send_mail", "send_mail"),
    "log": ("log", "logging.getLogger(__name__)"),
}
_SERVICE_IMPORTS = {
    "log": "import logging",
    "settings": "from django.conf import settings",
    "mail": "from django.core.mail import send_mail",
    "clock": "from django.utils import timezone",
}


def command_values(brief: Brief, records: dict[str, Values]) -> list[Values]:
    """Return the values that templates take of the console commands."""
    found = []
    for command in brief.commands:
        record = brief.record(command.lists) if command.lists else None
        both = (*command.positional, *command.named)
        plain = ["import datetime"] if any(field.type == "date" for field in both) else []
        plain += ["from decimal import Decimal"] if any(field.type == "decimal" for field in both) else []
        found.append(
            {
                "command": command.name.snake,
                "command_title": command.name.title,
                "command_summary": python_docstring(command.summary or f"{command.name.title}."),
                "command_imports": lines([*plain, ""] if plain else []),
                "arguments": [
                    *({"argument": _argument(field, True)} for field in command.positional),
                    *({"argument": _argument(field, False)} for field in command.named),
                ],
                "has_arguments": bool(both),
                "parameters": [{"parameter": field.name} for field in both],
                "example_words": ", ".join(_example_words(command)),
                "has_words": bool(_example_words(command)),
                "lists": bool(record),
                "filters": [
                    {"filter": field.name}
                    for field in both
                    if record and (same := record.field(field.name)) and same.type == field.type
                ],
                "has_limit": bool(record) and any(field.name == "limit" and field.type == "integer" for field in both),
                **({"record": record.name.camel, "snake": record.name.snake} if record else {}),
            }
        )
    return found


def _argument(field: Field, positional: bool) -> str:
    name = field.name if positional else f"--{field.name.replace('_', '-')}"
    said = [python_text(name)]
    if field.type == "yes/no" and not positional:
        said.append("action=argparse.BooleanOptionalAction")
    elif field.type in _READERS:
        said.append(f"type={_READERS[field.type]}")
    if field.type == "choice":
        said.append(f"choices={python_text([choice.value for choice in field.choices])}")
    if positional and field.type == "yes/no":
        said.append('choices=["yes", "no"]')
    if positional and (field.optional or field.default is not None):
        said.append('nargs="?"')
    if field.default is not None:
        said.append(f"default={_default(field)}")
    elif not positional and not field.optional and field.type != "yes/no":
        said.append("required=True")
    said.append(f"help={python_text(field.help or field.label)}")
    return ", ".join(said)


def _default(field: Field) -> str:
    if field.type == "date" and field.default == "today":
        return "datetime.date.today()"
    return default_of(field)


def _example(field: Field) -> str:
    plain = {"integer": '"1"', "decimal": '"1"', "number": '"1"', "date": '"2026-11-23"', "yes/no": '"yes"'}
    return python_text(field.choices[0].value) if field.choices else plain.get(field.type, '"sample"')


def _example_words(command: Command) -> list[str]:
    """Return the words that the module's own test calls a command with: all that must be given."""
    words = [_example(field) for field in command.positional]
    for field in command.named:
        if not field.optional and field.default is None and field.type != "yes/no":
            words += [python_text(f"--{field.name.replace('_', '-')}"), _example(field)]
    return words


def needs_argparse(brief: Brief) -> set[str]:
    """Return the commands that take a yes or no by name."""
    return {one.key for one in brief.commands if any(field.type == "yes/no" for field in one.named)}


def service_values(brief: Brief) -> tuple[list[Values], list[str]]:
    """Return the values that templates take of the services, and the first lines of their file."""
    found = []
    taken: set[str] = set()
    for service in brief.services:
        handed = [_handed(brief, name) for name in service.uses]
        taken |= {name for name in service.uses if name in _HANDED_IN}
        found.append(
            {
                "service": service.name.camel,
                "service_snake": service.name.snake,
                "service_summary": python_docstring(service.summary or f"{service.name.title}."),
                "signature": ", ".join(["self", *(name for name, _ in handed)]),
                "handed": [{"handed_name": name} for name, _ in handed],
                "has_handed": bool(handed),
                "making": ", ".join(f"{name}={code}" for name, code in handed),
            }
        )
    imports = [_SERVICE_IMPORTS["log"], ""] if "log" in taken else []
    imports += [_SERVICE_IMPORTS[name] for name in ("settings", "mail", "clock") if name in taken]
    with_records = any(brief.record(name) for service in brief.services for name in service.uses)
    imports += (
        (["", "from . import models"] if imports and imports[-1] else ["from . import models"]) if with_records else []
    )
    return found, imports


def _handed(brief: Brief, name: str) -> tuple[str, str]:
    if name in _HANDED_IN:
        return _HANDED_IN[name]
    record = brief.record(name)
    if record is not None:
        return record.plural.snake, f"models.{record.name.camel}.objects"
    other: Service = next(one for one in brief.services if same_name(one.name.title, name))
    return other.name.snake, f"{other.name.snake}()"


def listener_values(data: KitData, brief: Brief) -> tuple[list[Values], list[str]]:
    """Return the values that templates take of the listeners, and the first lines of their file."""
    found = []
    modules: dict[str, set[str]] = {"django.dispatch": {"receiver"}}
    own = False
    for listener in brief.listeners:
        event = event_named(django(data).events, data.title, listener.on, listener.name.title)
        module, _, name = event.signal.rpartition(".")
        modules.setdefault(module, set()).add(name)
        sender = ""
        if listener.of:
            record = brief.record(listener.of) if "." not in listener.of else None
            own = own or record is not None
            sender = (
                f", sender=models.{record.name.camel}"
                if record
                else f", sender={python_text(listener.of.replace(' ', ''))}"
            )
        found.append(
            {
                "listener": listener.name.snake,
                "listener_title": python_docstring(f"{listener.name.title}."),
                "signal": name,
                "sender": sender,
                "heard_from": sender.removeprefix(", sender=") if own and sender.startswith(", sender=models.") else "",
                "given": ", ".join(event.gives),
                "log_line": event.tells,
            }
        )
    imports = ["import logging", ""]
    imports += [f"from {module} import {', '.join(sorted(names))}" for module, names in sorted(modules.items())]
    return found, [*imports, "", "from . import models"] if own else imports
