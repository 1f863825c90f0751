"""Commands, services and listeners."""

from __future__ import annotations

from .....core.brief import Brief
from .....core.names import name_family
from .....core.parts.rights import same_name
from ....contract.kitdata import KitData, event_named
from ....shared.rendering import php_text
from ..facts import wordpress
from .records import field_values
from .shared import Values, comment_text

_HANDED_IN = {
    "clock": ("\\Closure", "current_datetime( ... )"),
    "settings": ("\\Closure", "{settings}"),
    "mail": ("\\Closure", "wp_mail( ... )"),
    "log": ("\\Closure", "error_log( ... )"),
}


def command_values(data: KitData, brief: Brief) -> list[Values]:
    """Return the values that templates take of the console commands."""
    found = []
    for command in brief.commands:
        record = brief.record(command.lists) if command.lists else None
        parameters = [(field, False) for field in command.positional] + [(field, True) for field in command.named]
        found.append(
            {
                "command": command.name.snake,
                "command_class": command.name.camel,
                "command_comment": comment_text(command.summary or f"{command.name.title}."),
                "command_summary": command.summary or command.name.title,
                "command_lists": record is not None,
                "record": record.name.camel if record is not None else "",
                "command_parameters": [
                    {**field_values(data, brief, command.name.title, field), "named": php_text(named)}
                    for field, named in parameters
                ],
            }
        )
    return found


def service_values(brief: Brief) -> list[Values]:
    """Return the values that templates take of the services."""
    found = []
    for service in brief.services:
        handed: list[tuple[str, str, str]] = []
        for name in service.uses:
            record = brief.record(name)
            other = next((one for one in brief.services if same_name(one.name.title, name)), None)
            if record is not None:
                handed.append((record.name.plural.snake, "string", f"Records\\{record.name.camel}::class"))
            elif other is not None:
                handed.append((other.name.snake, other.name.camel, f"self::{other.name.snake}()"))
            else:
                kind, code = _HANDED_IN[name]
                settings = "Settings::get( ... )" if brief.settings else "get_option( ... )"
                handed.append((name, kind, code.replace("{settings}", settings)))
        found.append(
            {
                "service": service.name.camel,
                "service_snake": service.name.snake,
                "service_comment": comment_text(service.summary or f"{service.name.title}."),
                "handed": [{"handed_name": name, "handed_type": kind} for name, kind, _ in handed],
                "making": ", ".join(code for _, _, code in handed),
            }
        )
    return found


def listener_values(data: KitData, brief: Brief) -> list[Values]:
    """Return the values that templates take of the listeners; raises WrongUse for an event that the host has not."""
    found = []
    for listener in brief.listeners:
        event = event_named(wordpress(data).events, data.title, listener.on, listener.name.title)
        found.append(
            {
                "listener": listener.name.snake,
                "listener_title": listener.name.title,
                "listener_comment": comment_text(f"{listener.name.title}."),
                "hook": event.hook.format(
                    record=_heard(brief, listener.of) if listener.of else "", module=brief.name.snake
                ),
                "hook_signature": event.given,
                "hook_arguments": str(event.given.count("$")),
                "hook_tells": event.tells,
            }
        )
    return found


def _heard(brief: Brief, of: str) -> str:
    record = brief.record(of)
    if record is not None:
        return f"{brief.name.snake}_{record.name.snake}"
    module, _, name = of.partition(".")
    return f"{module}_{name_family(name or module, what='record').snake}"
