"""Apps of the host that a module overrides to give their records more fields: the brief's extensions.

Nothing of the host is copied: the models that are not extended, and the migrations, stay the host's own.
"""

from __future__ import annotations

import ast
import re
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from ....core.brief import Brief
from ....core.errors import HostFailed, WrongUse
from ....core.nearest import did_you_mean
from ....core.parts.screens import Extension
from ...contract.kitdata import KitData
from ...shared.generating import templates_of
from ...shared.rendering import python_docstring
from ..django.composing import migrations
from ..django.composing.records import field_values, model_imports
from ..django.composing.shared import Values, lines
from ..django.facts import django

if TYPE_CHECKING:
    from ..django.view import HostView

FIRST_NUMBER = 101  # the host's own migrations have lower ones for a long time


class HostApp(NamedTuple):
    """One of the host's own apps: its label, its dotted path below the host's apps, its folder, its config class."""

    label: str
    path: str
    folder: Path
    config: str

    @property
    def migrations(self) -> list[str]:
        """The names of its migrations, in order."""
        return sorted(path.stem for path in (self.folder / "migrations").glob("[0-9]*.py"))

    @property
    def records(self) -> list[str]:
        """The records that it lets others extend."""
        text = (self.folder / "abstract_models.py").read_text("utf-8")
        return re.findall(r"^class Abstract(\w+)\(", text, re.MULTILINE)


def host_apps(view: HostView) -> dict[str, HostApp]:
    """Return the host's own apps whose records can be extended, by label; empty where the host is not to be seen."""
    found: dict[str, HostApp] = {}
    own = django(view.data).host_apps.split(".")
    for library in view.interpreter.libraries if view.interpreter is not None else ():
        root = library.joinpath(*own)
        for file in sorted(root.rglob("abstract_models.py")):
            apps = file.parent / "apps.py"
            if not apps.is_file():
                continue
            for node in ast.parse(apps.read_text("utf-8")).body:
                if isinstance(node, ast.ClassDef):
                    label = re.search(r"label = [\"'](\w+)", ast.unparse(node))
                    if label:
                        path = ".".join(file.parent.relative_to(root).parts)
                        found[label.group(1)] = HostApp(label.group(1), path, file.parent, node.name)
    return found


def extension_values(view: HostView, data: KitData, brief: Brief, dotted: str) -> list[Values]:
    """Return the values that templates take of the apps that a brief extends; raises WrongUse for what is not there."""
    if not brief.extensions:
        return []
    apps = host_apps(view)
    if not apps:
        raise HostFailed(
            "host-not-seen",
            "To extend a record of the host, its package must be seen.",
            "Name the host's interpreter with --runtime PATH, or make an environment beside manage.py.",
        )
    found: dict[str, Values] = {}
    for one in brief.extensions:
        app = _app_of(one, apps)
        held = found.setdefault(
            app.label,
            {
                "app": app.label,
                "app_path": f"{django(data).host_apps}.{app.path}",
                "app_config": app.config,
                "app_dotted": f"{dotted}.{app.label}",
                "app_docstring": python_docstring(f"The host's {app.label}, with more fields; all else is the host's."),
                "extended": [],
            },
        )
        held["extended"].append(
            {"record": one.record, "abstract": f"Abstract{one.record}", "fields": _fields(data, brief, one)}
        )
    for held in found.values():
        held["app_imports"] = lines(model_imports(data, held["extended"]))
        held["abstracts"] = ", ".join(sorted(one["abstract"] for one in held["extended"]))
    return list(found.values())


def _app_of(extension: Extension, apps: dict[str, HostApp]) -> HostApp:
    app = apps.get(extension.label)
    if app is None:
        raise WrongUse(
            "extension-target",
            f"{extension.of}: the host has no app {extension.label!r}.",
            did_you_mean(extension.label, apps),
        )
    if extension.record not in app.records:
        raise WrongUse(
            "extension-target",
            f"{extension.of}: the host's {extension.label} has no record {extension.record!r}.",
            did_you_mean(extension.record, app.records),
        )
    return app


def _fields(data: KitData, brief: Brief, extension: Extension) -> list[Values]:
    """Return the fields; all may be null in the table, so that the host can write rows when the module is off."""
    found = []
    for field in extension.fields:
        own = brief.record(field.target) if field.is_relation and "." not in field.target else None
        if own is not None:  # it is reached from another app
            field = field._replace(target=f"{brief.name.snake}.{own.name.camel}")
        values = field_values(data, brief, extension.of, field)
        for key in ("model", "migration"):
            if "null=True" not in values[key]:
                before, bracket, rest = values[key].rpartition(")")
                joint = "" if before.rstrip().endswith(("(", ",")) else ", "
                values[key] = f"{before}{joint}null=True{bracket}{rest}"
        found.append(values | {"must_fill": False})
    return found


def extension_migrations(
    view: HostView, data: KitData, before: Brief, after: Brief, there: dict[str, Sequence[str]]
) -> dict[str, bytes]:
    """Return the migrations that lead from one brief's extensions to another's: path below the module, and content.

    there -- the names of the migrations that the module has already, by the host's app
    """
    old = {one["app"]: one["extended"] for one in extension_values(view, data, before, "")}
    new = {one["app"]: one["extended"] for one in extension_values(view, data, after, "")}
    apps = host_apps(view) if old or new else {}
    files: dict[str, bytes] = {}
    for label, tables in new.items():
        names = list(there.get(label, ()))
        known = {one["record"]: one for one in old.get(label, ())}
        was = [known.get(one["record"], {**one, "fields": []}) for one in tables]
        rests_on = (label, max(names) if names else apps[label].migrations[-1])
        number = int(re.match(r"\d+", max(names)).group()) + 1 if names else FIRST_NUMBER  # type: ignore[union-attr]
        made = migrations.between(templates_of(data), data, after, _tables(was), _tables(tables), rests_on, number)
        if made is not None:
            files[f"{label}/migrations/{made.name}.py"] = made.text.encode("utf-8")
    return files


def _tables(extended: list[Values]) -> list[Values]:
    return [{"record": one["record"], "fields": one["fields"], "options": {}} for one in extended]
