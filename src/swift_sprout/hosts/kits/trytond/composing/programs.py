"""Scheduled jobs, services and listeners."""

from __future__ import annotations

from .....core.brief import Brief
from .....core.errors import WrongUse
from .....core.fields import Field
from .....core.names import name_family
from .....core.parts.rights import same_name
from ....contract.kitdata import KitData, event_named
from ....shared.rendering import python_docstring, python_text
from ..facts import trytond
from .shared import Values, lines, model_name

_HANDED_IN = {
    "clock": "datetime.datetime.now",
    "log": "logging.getLogger(__name__)",
    "mail": "sendmail_transactional",
    "settings": "config",
}
_IMPORTS = {
    "clock": "import datetime",
    "log": "import logging",
    "mail": "from trytond.sendmail import sendmail_transactional",
    "settings": "import trytond.config as config",
}


def job_values(brief: Brief) -> tuple[list[Values], list[str]]:
    """Return the values of the scheduled jobs, and the first lines of their file. Raises WrongUse."""
    found: list[Values] = []
    for command in brief.commands:
        record = brief.record(command.lists) if command.lists else None
        parameters = [*command.positional, *command.named]
        for field in parameters:
            if field.default is None and not field.optional and field.type != "yes/no":
                raise WrongUse(
                    "command-not-carried",
                    f"The command {command.name.title!r} needs {field.name!r}, but a scheduled job is called without.",
                    "Give it a default, or make it optional.",
                )
        filters = [field for field in parameters if record is not None and record.field(field.name)]
        limit = next((field for field in parameters if field.name == "limit" and field.type == "integer"), None)
        domain = ", ".join(f'*([("{one.name}", "=", {one.name})] if {one.name} is not None else [])' for one in filters)
        key = command.key
        found.append(
            {
                "job": key,
                "job_title": command.name.title,
                "job_method": f"{brief.name.snake}.jobs|{key}",
                "job_arguments": "".join(f", {field.name}={_default(field)}" for field in parameters),
                "job_docstring": python_docstring(command.summary or f"{command.name.title}."),
                "job_lists": record is not None,
                "job_model": model_name(brief, record) if record is not None else "",
                "job_domain": domain,
                "job_limit": f", limit={limit.name}" if limit is not None else "",
                "job_line": python_text(command.name.title),
            }
        )
    spelled = " ".join(one["job_arguments"] for one in found)
    imports = ["import datetime"] if "datetime." in spelled else []
    imports += ["import logging"] + (["from decimal import Decimal"] if "Decimal(" in spelled else [])
    pool = "Pool, PoolMeta" if any(one["job_lists"] for one in found) else "PoolMeta"
    return found, [*imports, "", "from trytond.model import Model", f"from trytond.pool import {pool}"]


def _default(field: Field) -> str:
    if field.type == "yes/no":
        return str((field.default or "no").lower() in ("yes", "true"))
    if field.default is None:
        return "None"
    if field.type in ("integer", "number"):
        return repr(int(field.default) if field.type == "integer" else float(field.default))
    if field.type == "decimal":
        return f"Decimal({python_text(field.default)})"
    if field.type == "date":
        return "None" if field.default == "today" else f"datetime.date.fromisoformat({python_text(field.default)})"
    return python_text(field.default)


def service_values(brief: Brief) -> tuple[list[Values], list[str]]:
    """Return the values of the services, and the first lines of their file."""
    found = []
    taken: set[str] = set()
    records = False
    for service in brief.services:
        handed = []
        for name in service.uses:
            record = brief.record(name)
            other = next((one for one in brief.services if same_name(one.name.title, name)), None)
            if record is not None:
                records = True
                handed.append((record.name.snake, f"Pool().get({python_text(model_name(brief, record))})"))
            elif other is not None:
                handed.append((other.name.snake, f"{other.name.snake}()"))
            else:
                taken.add(name)
                handed.append((name, _HANDED_IN[name]))
        found.append(
            {
                "service": service.name.camel,
                "service_snake": service.name.snake,
                "service_summary": python_docstring(service.summary or f"{service.name.title}."),
                "signature": "".join(f", {name}" for name, _ in handed),
                "handed": [{"handed_name": name} for name, _ in handed],
                "has_handed": bool(handed),
                "making": ", ".join(f"{name}={code}" for name, code in handed),
            }
        )
    imports = [_IMPORTS[name] for name in ("clock", "log") if name in taken]
    outer = ["from trytond.pool import Pool"] if records else []
    outer += [_IMPORTS[name] for name in ("mail", "settings") if name in taken]
    return found, [*imports, *([""] if imports and outer else []), *outer]


def listener_values(data: KitData, brief: Brief) -> list[Values]:
    """Return the extensions of models that hear events, one for each model. Raises WrongUse for an event it has not."""
    heard: dict[str, list[str]] = {}
    for listener in brief.listeners:
        event = event_named(trytond(data).events, data.title, listener.on, listener.name.title)
        own = f"{brief.name.snake}.{event.own}" if event.own else ""
        model = event.model or own or _heard(brief, listener.of)
        when = [f"        if {event.when}:"] if event.when else []
        indent = "    " * (3 if when else 2)
        method = f"    def {event.method}(cls, {event.given}):"
        block = heard.setdefault(model, [])
        call = [f"{indent}# {listener.name.title}", f"{indent}log.info({event.tells})"]
        if method in block:  # a second listener of the same event does its work in the same method
            block += ["", *when, *call]
            continue
        block += ["", "    @classmethod", method, f"        super().{event.method}({event.passed})", *when, *call]
    return [_extension(brief, model, _returning(block)) for model, block in heard.items()]


def _returning(block: list[str]) -> list[str]:
    """Hand on what the extended method gives, for those methods that give something."""
    found = []
    for line in block:
        gives = line.strip().startswith(("super().new(", "super().remove("))
        found.append(line.replace("super()", "given = super()", 1) if gives else line)
    return found + (["        return given"] if any("given = super()" in line for line in found) else [])


def _extension(brief: Brief, model: str, block: list[str]) -> Values:
    own = model == f"{brief.name.snake}.listeners"
    words = model.replace(".", "_").split("_")
    return {
        "heard_class": "".join(word.title() for word in words),
        "heard_base": "Model" if own else "metaclass=PoolMeta",
        "heard_model": model,
        "heard_lines": lines(block),
        "listener_own": own,
    }


def _heard(brief: Brief, of: str) -> str:
    record = brief.record(of)
    if record is not None:
        return model_name(brief, record)
    module, _, name = of.partition(".")
    return f"{module}.{name_family(name, what='record').snake}"
