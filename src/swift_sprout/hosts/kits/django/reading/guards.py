"""Guards that a module's config class holds for its addresses, by their names (hosts whose configs carry addresses)."""

from __future__ import annotations

import ast
from typing import TYPE_CHECKING, NamedTuple

from .code import class_named

if TYPE_CHECKING:
    from pathlib import Path

    from ..view import HostView
    from .modules import ModuleFiles
    from .project import Project

GUARDS = "permissions_map"
OTHERWISE = "default_permissions"


class Guard(NamedTuple):
    """What one name asks for: the rights and flags that it lists, all of them; ``line`` is where it stands.

    sets   -- further lists, of which one is enough; the first is ``rights``
    shaped -- False for a value that is neither a list of texts nor a tuple of such lists
    """

    name: str
    rights: tuple[str, ...]
    line: int
    sets: tuple[tuple[str, ...], ...] = ()
    shaped: bool = True

    @property
    def named(self) -> list[str]:
        """Every right and flag that it lists, in order."""
        return sorted({*self.rights, *(right for further in self.sets for right in further)})


class ConfigGuards(NamedTuple):
    """The guards of a config class: its file, by name, for all other names, and whether all of that could be read."""

    path: Path
    by_name: dict[str, Guard]
    otherwise: Guard | None
    sure: bool
    line: int

    @property
    def every(self) -> list[Guard]:
        """The guards by name, and the one for all other names."""
        return [*self.by_name.values(), *((self.otherwise,) if self.otherwise else ())]


def config_guards(project: Project, module: ModuleFiles) -> ConfigGuards | None:
    """Return the guards that a module's config class writes out; None for a module whose config has none."""
    path = module.folder / "apps.py"
    source = project.parse(path)
    if source is None or source.tree is None or module.config is None:
        return None
    node = class_named(source.tree, module.config.name)
    if node is None:
        return None
    by_name: dict[str, Guard] = {}
    otherwise: Guard | None = None
    sure, line, found = True, 0, False
    for statement in ast.walk(node):
        if not isinstance(statement, ast.Assign):
            continue
        target = statement.targets[0]
        name = target.id if isinstance(target, ast.Name) else target.attr if isinstance(target, ast.Attribute) else ""
        if name == GUARDS:
            found, line = True, statement.lineno
            if isinstance(statement.value, ast.Dict):
                for key, value in zip(statement.value.keys, statement.value.values, strict=True):
                    if isinstance(key, ast.Constant) and isinstance(key.value, str):
                        by_name[key.value] = _guard(key.value, value, key.lineno)
                    else:
                        sure = False
            else:
                sure = False
        elif name == OTHERWISE:
            found, line = True, line or statement.lineno
            if not (isinstance(statement.value, ast.Constant) and statement.value.value is None):
                otherwise = _guard("", statement.value, statement.lineno)
    return ConfigGuards(path, by_name, otherwise, sure, line) if found else None


def guard_of_controller(view: HostView, controller: str) -> Guard | None:
    """Return what the config class of a controller's module asks for its address; None where configs hold no guards."""
    if "staff_screen" not in view.data.parts:
        return None
    for name, addresses in view.addresses_by_module.items():
        for address in addresses if controller.startswith(name + ".") else ():
            module = view.module(name)
            guards = config_guards(view.project, module) if module is not None and address.view == controller else None
            if guards is not None:
                return guards.by_name.get(address.route.name) or guards.otherwise
    return None


def _guard(name: str, node: ast.expr, line: int) -> Guard:
    if isinstance(node, ast.Tuple):
        lists = [_texts(element) for element in node.elts]
        shaped = not any(isinstance(element, ast.Constant) for element in node.elts)
        return Guard(name, lists[0] if lists else (), line, tuple(lists[1:]), shaped)
    return Guard(name, _texts(node), line, (), not isinstance(node, ast.Constant))


def _texts(node: ast.expr) -> tuple[str, ...]:
    if isinstance(node, ast.List | ast.Set):
        return tuple(str(one.value) for one in node.elts if isinstance(one, ast.Constant))
    return ()
