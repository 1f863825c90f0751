"""Access rights as a module's data files say them."""

from __future__ import annotations

from typing import NamedTuple

from .modules import ModuleFiles

MODES = ("read", "create", "write", "delete")


class Access(NamedTuple):
    """The rights of a module: by group title (empty for everybody) pairs of model and mode, and (button, nothing).

    models -- the module's own models that people work with; buttons -- rights beside the four
    """

    groups: dict[str, set[tuple[str, str]]]
    models: dict[str, None]
    buttons: list[str]
    notes: list[str]


def access_of(module: ModuleFiles) -> Access:
    """Return the rights that a module's data files say; a model that none names is open to everybody."""
    models = {
        one.model: None
        for one in module.classes
        if one.model
        and one.sort == "model"
        and not one.extends
        and any(base.endswith("ModelSQL") for base in one.bases)
        and any(base.endswith("ModelView") for base in one.bases)
    }
    groups: dict[str, set[tuple[str, str]]] = {"": set()}
    titles = {record.id: record.text("name") for record in module.records if record.model == "res.group"}
    for title in titles.values():
        groups.setdefault(title, set())
    said: set[str] = set()
    for record in module.records:
        if record.model == "ir.model.access" and record.text("model") in models:
            said.add(record.text("model"))
            who = record.ref("group")
            title = titles.get(who, who)
            groups.setdefault(title, set())
            for mode in MODES:
                field = record.field(f"perm_{mode}")
                if field is not None and field.eval.strip() == "True":
                    groups[title].add((record.text("model"), mode))
    notes = []
    for model in models:
        if model not in said:
            groups[""] |= {(model, mode) for mode in MODES}
            notes.append(f"no access right names {model}: everybody who is signed in may do everything with it")
    buttons = {record.id: record.text("name") for record in module.records if record.model == "ir.model.button"}
    for record in module.records:
        if record.model == "ir.model.button-res.group" and record.ref("button") in buttons:
            title = titles.get(record.ref("group"), record.ref("group"))
            groups.setdefault(title, set()).add((buttons[record.ref("button")], ""))
    return Access(groups, models, list(buttons.values()), notes)
