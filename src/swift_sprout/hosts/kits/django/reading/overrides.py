"""Apps of the host that modules override, in hosts that let them: the config extends that of the host's own app."""

from __future__ import annotations

import ast
from typing import TYPE_CHECKING, NamedTuple

from ..facts import django

if TYPE_CHECKING:
    from ..view import HostView
    from .modules import ModuleFiles


class Override(NamedTuple):
    """What a module overrides: the host's app, as ``partner`` or ``dashboard.orders``, and its config's dotted name."""

    app: str
    config: str

    @property
    def label(self) -> str:
        """The label that the host's app has."""
        group, dot, name = self.app.rpartition(".")
        return f"{name}_{group}" if dot and group == "dashboard" else name


def overridden(view: HostView, module: ModuleFiles) -> Override | None:
    """Return which app of the host a module overrides; None for none, and where hosts of the kind allow none."""
    own = django(view.data).host_apps
    source = view.project.parse(module.folder / "apps.py") if own else None
    if source is None or source.tree is None or module.config is None:
        return None
    names: dict[str, str] = {}
    for node in source.tree.body:
        if isinstance(node, ast.ImportFrom) and (node.module or "").startswith(f"{own}."):
            for alias in node.names:
                names[alias.asname or alias.name] = f"{node.module}.{alias.name}"
    for base in module.config.bases:
        first, _, rest = base.partition(".")
        dotted = ".".join(filter(None, (names.get(first, ""), rest))) if first in names else ""
        if dotted:
            return Override(dotted.removeprefix(f"{own}.").partition(".apps")[0], dotted)
    return None


def overriding_already(view: HostView, module: ModuleFiles, override: Override) -> ModuleFiles | None:
    """Return another listed module of the host that overrides the same app, or None."""
    for other in view.modules:
        if other.name != module.name and view.entry_of(other) is not None:
            held = overridden(view, other)
            if held is not None and held.app == override.app:
                return other
    return None


def parts_that_override(view: HostView, module: ModuleFiles) -> list[ModuleFiles]:
    """Return the modules inside of a module that override apps of the host, and are switched on and off with it."""
    inside = [other for other in view.modules if other.name.startswith(f"{module.name}.")]
    return [other for other in inside if overridden(view, other) is not None]
