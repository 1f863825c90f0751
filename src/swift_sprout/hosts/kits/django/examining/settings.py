"""What the settings name by a dotted path, and what code asks of the settings: whether it is there, from the files."""

from __future__ import annotations

import ast
import re
import sys
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from .....core.nearest import misspelt as slip_of
from .....core.nearest import near_text
from ....python.bindings import names_bound
from ..reading.project import text_value
from ..reading.settings import UNKNOWN

if TYPE_CHECKING:
    from .....core.findings import Finding
    from ..reading.project import Source
    from ..view import HostView

#  settings whose texts are dotted names of code (Django 5.2), and the endings of others that packages have by custom
_NAMING = {"MIDDLEWARE", "TEMPLATES", "AUTHENTICATION_BACKENDS", "DATABASE_ROUTERS", "STORAGES", "PASSWORD_HASHERS"}
_NAMING_ENDINGS = (
    *("_BACKEND", "_APPLICATION", "_URLCONF", "_RUNNER", "_ENGINE", "_RENDERER", "_MIDDLEWARE", "_ADAPTER"),
    *("_FUNCTION", "_CLASS", "_HANDLER", "_CALLBACK"),
)
_HARMLESS = ("test", "site")  # nothing imports the language's own after it has started
_DOTTED = re.compile(r"[A-Za-z_]\w*(\.[A-Za-z_]\w*)+")


def absent_names(view: HostView) -> Iterator[Finding]:
    """Yield the names in the settings that lead to no code of the host, each for the module that it should lie in."""
    settings = view.settings
    if settings is not None and settings.path is None and settings.module:
        yield from _no_settings(view, settings.module)
    for path in settings.files if settings is not None else ():
        source = view.project.parse(path)
        for key, value in _assigned(source):
            if settings is None or not (key in _NAMING or key.endswith(_NAMING_ENDINGS)):
                continue
            held = settings.get(key)
            texts = set(_texts(held.plain)) if held is not None else set()
            for node in ast.walk(value):
                if not isinstance(node, ast.Constant):
                    continue
                text = node.value
                if not isinstance(text, str) or not _DOTTED.fullmatch(text) or (texts and text not in texts):
                    continue
                missing = _missing(view, text)
                if missing is not None:
                    yield _finding(view, path, node.lineno, key, text, *missing)


def _no_settings(view: HostView, module: str) -> Iterator[Finding]:
    """Yield where the entry script names a settings file that is not in the host's folders, nor in a package."""
    top = module.partition(".")[0]
    if view.interpreter is None or (view.interpreter.has(top) and view.project.folder_of(top) is None):
        return
    source = view.project.parse(view.project.entry)
    for node in ast.walk(source.tree) if source is not None and source.tree is not None else ():
        if isinstance(node, ast.expr) and text_value(node) == module:
            yield _finding(view, view.project.entry, node.lineno, "DJANGO_SETTINGS_MODULE", module, module, ())
            return


def shadows(view: HostView) -> Iterator[Finding]:
    """Yield files and packages of the host that stand in the way of modules of the language's own."""
    for root in view.project.import_roots:
        for path in sorted(root.iterdir()):
            is_code = path.suffix == ".py" or (path.is_dir() and (path / "__init__.py").is_file())
            if is_code and path.stem in sys.stdlib_module_names and path.stem not in _HARMLESS:
                file = view.relative(path)
                owner = next((one.name for one in view.modules if one.folder == path), "")
                values = {"name": path.stem, "place": file}
                yield view.data.rules.finding("compatible.shadows-standard", owner, file, 0, **values)


def _assigned(source: Source | None) -> Iterator[tuple[str, ast.expr]]:
    """Yield what the statements of a settings file that always run give to a setting, or add to one."""
    for node in source.tree.body if source is not None and source.tree is not None else ():
        if isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Name):
            yield node.targets[0].id, node.value
        elif isinstance(node, ast.AnnAssign | ast.AugAssign) and isinstance(node.target, ast.Name) and node.value:
            yield node.target.id, node.value
        elif isinstance(node, ast.Expr) and isinstance(node.value, ast.Call):
            function = node.value.func
            if isinstance(function, ast.Attribute) and isinstance(function.value, ast.Name):
                yield function.value.id, node.value


def _texts(plain: Any) -> Iterator[str]:
    """Yield the texts in a setting's value; none where it holds what cannot be told."""
    if isinstance(plain, str):
        yield plain
    elif isinstance(plain, dict):
        for value in plain.values():
            yield from _texts(value)
    elif isinstance(plain, list | tuple):
        if any(value is UNKNOWN for value in plain):
            return
        for value in plain:
            yield from _texts(value)


def _missing(view: HostView, text: str) -> tuple[str, Iterable[str]] | None:
    """Return what of a dotted name is not there, and what is there instead; None for a name that leads to something."""
    parts = text.split(".")
    if view.project.folder_of(parts[0]) is None:
        return None
    for cut in range(len(parts), 0, -1):
        path = view.project.file_of(".".join(parts[:cut]))
        if path is None:
            continue
        if cut == len(parts):
            return None
        source = view.project.parse(path)
        bound = names_bound(source.tree) if source is not None and source.tree is not None else None
        if bound is None or parts[cut] in bound:
            return None
        near = bound if path.name != "__init__.py" else {entry.stem for entry in path.parent.glob("*.py")} | bound
        return parts[cut], near
    return None


def _finding(view: HostView, path: Path, line: int, key: str, text: str, missing: str, there: Iterable[str]) -> Finding:
    owner = next((one.name for one in view.modules if text == one.name or text.startswith(f"{one.name}.")), "")
    file = view.relative(path)
    values = {"key": key, "target": text, "name": missing, "near": near_text(missing, there), "place": f"{file}:{line}"}
    return view.data.rules.finding("enabled.setting-names-nothing", owner, file, line, **values)


def misspelt(view: HostView) -> Iterator[Finding]:
    """Yield settings that nothing reads, and that are nearly one of the host's own."""
    own = _own_names(view) if view.settings is not None else None
    for key, value in (view.settings.values if view.settings is not None else {}).items():
        near = slip_of(key, own - set(view.settings.values)) if own is not None and key not in own else None  # type: ignore[union-attr]
        if near is not None and not _is_read(view, key):
            file = view.relative(value.file)
            values = {"key": key, "near": near, "place": f"{file}:{value.line}"}
            yield view.data.rules.finding("enabled.setting-misspelt", "", file, value.line, **values)


def _is_read(view: HostView, key: str) -> bool:
    """True where a setting is named more than once in the host's code, or at all in a package that it lists."""
    if sum(text.count(key) for text in view.drawing.texts) > 1 or view.interpreter is None:
        return True
    tops = {view.app_of(entry.value).partition(".")[0] for entry in view.listed} - {"django"}
    places = (library / top for library in view.interpreter.libraries for top in tops)
    code = (path for place in places for path in place.rglob("*.py"))
    return any(key in path.read_text("utf-8", "replace") for path in code)


def names_known(view: HostView) -> set[str] | None:
    """Return the settings that the files and the host itself set; None where others may be set as well."""
    settings = view.settings
    if settings is None or settings.open_ended or settings.missing or settings.broken:
        return None
    own = _own_names(view)
    return own | set(settings.values) if own is not None else None


def _own_names(view: HostView) -> set[str] | None:
    """Return the settings that the host itself has; None where its files are not found."""
    for library in view.interpreter.libraries if view.interpreter is not None else ():
        source = view.project.parse(library / "django" / "conf" / "global_settings.py")
        bound = names_bound(source.tree) if source is not None and source.tree is not None else None
        if bound is not None:
            return bound
    return None
