"""What the files of one module tell that rules for other modules ask for: small enough to be told from copy to copy."""

from __future__ import annotations

import ast
import re
from typing import TYPE_CHECKING, NamedTuple

from .routes import Route, routes_of

if TYPE_CHECKING:
    from .code import CodeClass, CodeField
    from .modules import ModuleFiles

_ICON = re.compile(rb"[\"'](tryton-[\w-]+)[\"']")


class ModelClass(NamedTuple):
    """A class of a model, wizard or report without its code: what makes the model that the host mixes of all of them.

    called -- True when a base of it is made by a call, so that it may bring more than can be read
    """

    model: str
    sort: str
    extends: bool
    bases: tuple[str, ...]
    called: bool
    fields: dict[str, CodeField]
    methods: frozenset[str]


class Shared(NamedTuple):
    """What one module tells the others.

    ids -- of its records, with_rights -- the models that its rights name, refers_to -- the ids that its data names
    icons -- that its data brings, named_icons -- the host's own icons that its code names
    routes -- those of its routers; of the classes that answer them only the names are kept
    names_untold -- True where it registers classes whose names its code works out, or classes that its code makes
    """

    ids: frozenset[str]
    with_rights: frozenset[str]
    refers_to: frozenset[str]
    icons: frozenset[str]
    named_icons: frozenset[str]
    models: tuple[ModelClass, ...]
    routes: tuple[Route, ...]
    names_untold: bool


def shared_of(module: ModuleFiles) -> Shared:
    """Return what a module tells the others."""
    records = module.records
    return Shared(
        frozenset(module.ids),
        frozenset(record.text("model") for record in records if record.model == "ir.model.access"),
        frozenset(field.ref for record in records for field in record.fields if field.ref),
        frozenset(record.text("name") for record in records if record.model == "ir.ui.icon"),
        frozenset(name.decode() for file in module.code_files for name in _ICON.findall(file.content)),
        tuple(
            ModelClass(
                one.model,
                one.sort,
                one.extends,
                one.bases,
                len(one.node.bases) != sum(map(bool, one.bases)),
                one.fields,
                frozenset(one.methods),
            )
            for one in module.classes
            if one.model
        ),
        tuple(route._replace(owner=_in_short(route.owner)) for route in routes_of(module)),
        any(one.name_untold for one in module.classes) or any(map(module.made_by_code, module.registered)),
    )


def _in_short(code_class: CodeClass) -> CodeClass:
    """Return a class without its code."""
    return code_class._replace(fields={}, methods={}, assigned={}, node=ast.ClassDef(code_class.name, [], [], [], []))
