"""What a module uses of others: models that it points at or extends, and data that it refers to."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from .reading.modules import ModuleFiles
    from .view import HostView


def used_modules(view: HostView, module: ModuleFiles) -> dict[str, str]:
    """Return the modules that a module's code and data rest on, each with the first place that shows it.

    What counts without condition: relations to records, extended classes, references in data files. What the manifest
    registers only together with other modules, or data says to depend on them, does not count.
    """
    found: dict[str, str] = {}
    conditional = {one.text for one in module.registered if one.depends}
    owners = model_owners(view)
    for said in module.registered:
        if said.depends or said.text in conditional:
            continue
        one = module.registered_class(said.text)
        if one is None or said.sort == "report":
            continue
        place = f"{view.relative(one.path)}"
        owner = owners.get(one.model, "")
        if one.extends and owner and owner != module.name:
            found.setdefault(owner, f"{place}:{one.line}")
        for field in one.fields.values():
            owner = owners.get(field.target, "")
            if owner and owner != module.name:
                found.setdefault(owner, f"{place}:{field.line}")
    for record in module.records:
        if record.depends:
            continue
        for put in record.fields:
            other, dot, _ = put.ref.partition(".")
            if dot and not put.depends and other != module.name:
                found.setdefault(other, f"{view.relative(record.path)}:{put.line}")
    return found


def model_owners(view: HostView) -> dict[str, str]:
    """Return the module that brings each model: the one that defines it without extending another."""
    if view.owners is None:
        owners: dict[str, str] = {}
        for name in view.order:
            module = view.module(name)
            if module is None:
                continue
            for one in module.shared.models:
                if not one.extends:
                    owners.setdefault(one.model, name)
        view.owners = owners
    return view.owners
