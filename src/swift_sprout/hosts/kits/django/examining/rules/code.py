"""Enabled, from the files: sources that parse, are loaded, and hold what the host looks for in them."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path

from ......core.findings import Finding
from .....python.attributes import absent_attributes
from ...reading.code import class_named, imports_of, meta_constant, nodes_of, relative_to, spelled
from ..examination import Examination

#  names that developers give files and folders, by the name under which the host looks for them
NEAR_NAMES = {
    "admin.py": ("admins.py", "adminn.py", "amdin.py"),
    "apps.py": ("app.py", "apps_config.py"),
    "models.py": ("model.py", "modles.py"),
    "urls.py": ("url.py", "route.py", "routes_urls.py"),
    "migrations": ("migration",),
    "templates": ("template", "tempates"),
    "templatetags": ("templatetag", "template_tags", "tags"),
    "static": ("statics",),
    "management": ("managment", "manage"),
    "management/commands": ("management/command",),
    "locale": ("locales",),
}
_NEAR = frozenset(name.partition("/")[0] for names in NEAR_NAMES.values() for name in names)


def parse(exam: Examination) -> Iterator[Finding]:
    """Files of the module that do not parse."""
    for source in exam.sources:
        if source.broken and source.name != "apps.py" and source.path.parent.name != "migrations":
            file_name = exam.view.relative(source.path)
            reason = source.broken.reason
            yield exam.find(
                "enabled.source-broken", source.path, source.broken.line, reason=reason, file_name=file_name
            )


def undefined(exam: Examination) -> Iterator[Finding]:
    """Names that the module's code uses and nothing defines."""
    for source in exam.sources if exam.view.undefined else ():
        for name in exam.view.undefined.get(str(source.path), ()):
            code = "served.name-undefined" if name.late else "enabled.name-undefined"
            yield exam.find(code, source.path, name.line, name=name.name, near=name.near)


def attributes(exam: Examination) -> Iterator[Finding]:
    """What the module's code asks of the host's own files by their names, and they do not have."""
    project = exam.view.project

    def tree_of(path: Path) -> ast.Module | None:
        parsed = project.parse(path)
        return parsed.tree if parsed is not None else None

    for source in exam.sources:
        if source.tree is None or not source.mentions("import "):
            continue
        dotted = exam.dotted(source.place)
        package = dotted if source.name == "__init__.py" else dotted.rpartition(".")[0]
        for one in absent_attributes(nodes_of(source.tree), package, project.file_of, tree_of):
            values = {"name": f"{one.module}.{one.name}", "near": one.near, "other": exam.view.relative(one.file)}
            code = "served.attribute-absent" if one.late else "enabled.attribute-absent"
            yield exam.find(code, source.path, one.line, **values)


def too_early(exam: Examination) -> Iterator[Finding]:
    """Models imported by the package marker or by apps.py, before the host has its list."""
    for name in ("__init__.py", "apps.py"):
        source = exam.view.project.parse(f"{exam.module.place}/{name}") if exam.module.has(name) else None
        if source is None or source.tree is None or not source.mentions("models"):
            continue
        for found in imports_of(source.tree):
            dotted = relative_to(found.module, exam.module.name)
            targets = [dotted, *(f"{dotted}.{name}" for name in found.names)]
            if not found.soft and any(target == f"{exam.module.name}.models" for target in targets):
                file_name = exam.view.relative(source.place)
                yield exam.find("enabled.models-too-early", source.path, found.line, file_name=file_name)


def listeners(exam: Examination) -> Iterator[Finding]:
    """A file with listeners that nothing imports."""
    apps = exam.view.project.parse(f"{exam.module.place}/apps.py")
    if apps is not None and apps.broken is not None:
        return
    for source in exam.sources:
        if source.tree is None or source.name in ("apps.py", "models.py", "__init__.py"):
            continue
        if not source.mentions("receiver"):
            continue
        for node in source.tree.body:
            if isinstance(node, ast.FunctionDef) and any("receiver" in ast.unparse(one) for one in node.decorator_list):
                if exam.dotted(source.path) not in _imported(exam):
                    file_name = exam.view.relative(source.path)
                    yield exam.find("enabled.listener-unloaded", source.path, node.lineno, file_name=file_name)
                break


def _imported(exam: Examination) -> set[str]:
    """Return every dotted name that files of the module import, at any depth of their code."""
    found: set[str] = set()
    for source in exam.sources:
        package = (
            exam.dotted(source.path) if source.name == "__init__.py" else (exam.dotted(source.path).rpartition(".")[0])
        )
        for each in imports_of(source.tree) if source.tree is not None else ():
            base = relative_to(each.module, package)
            found |= {base, *(f"{base}.{name}" for name in each.names)}
        for node in nodes_of(source.tree) if source.tree is not None and source.mentions("import_module") else ():
            if isinstance(node, ast.Call) and spelled(node.func).endswith("import_module") and node.args:
                if isinstance(node.args[0], ast.Constant):
                    found.add(str(node.args[0].value))
    return found | {name.removeprefix(".") for name in found}


def models_package(exam: Examination) -> Iterator[Finding]:
    """Records in a models package that its marker does not import."""
    marker = exam.view.project.parse(f"{exam.module.place}/models/__init__.py") if exam.module.has("models") else None
    if marker is None or marker.tree is None:
        return
    known: set[str] = set()
    for found in imports_of(marker.tree):
        known |= {"*"} if "*" in found.names else set(found.names)
    imported = _imported(exam)
    for path, node in exam.model_classes():
        if path.name == "__init__.py" or node.name in known or "*" in known or meta_constant(node, "abstract") is True:
            continue
        if exam.dotted(path) in imported:
            continue
        values = {"record": node.name, "file_name": exam.view.relative(path), "stem": path.stem}
        yield exam.find("enabled.models-unimported", path, node.lineno, **values)


def misnamed(exam: Examination) -> Iterator[Finding]:
    """Files and folders whose names the host does not look for, but for one very like them."""
    imported: set[str] | None = None
    there = exam.module.names
    if not there & _NEAR:
        return
    for wanted, others in NEAR_NAMES.items():
        for name in others:
            if name.partition("/")[0] not in there:
                continue
            path = exam.module.folder / name
            if not path.exists() or exam.module.has(wanted):
                continue
            if imported is None:
                imported = _imported(exam)
            if path.suffix == ".py" and exam.dotted(path) in imported:
                continue
            yield exam.find("enabled.file-misnamed", path, 0, name=exam.view.relative(path), wanted=wanted)


def commands(exam: Examination) -> Iterator[Finding]:
    """Console commands without the class that the host looks for."""
    if not exam.module.has("management"):
        return
    for path in sorted((exam.module.folder / "management" / "commands").glob("*.py")):
        source = exam.view.project.parse(path)
        if path.name.startswith("_") or source is None or source.tree is None:
            continue
        brought = {name for found in imports_of(source.tree) for name in found.names}
        stored = {spelled(node.targets[0]) for node in source.tree.body if isinstance(node, ast.Assign)}
        if class_named(source.tree, "Command") is None and not {"Command", "*"} & (brought | stored):
            line = next((node.lineno for node in source.tree.body if isinstance(node, ast.ClassDef)), 1)
            yield exam.find("enabled.command-class-absent", path, line, command=path.stem)


def tag_libraries(exam: Examination) -> Iterator[Finding]:
    """Tag libraries that cannot be loaded."""
    for library in exam.module.libraries:
        if not library.registers:
            source = exam.view.project.parse(library.path)
            decorated = (
                source is not None
                and source.tree is not None
                and any(isinstance(node, ast.FunctionDef) and node.decorator_list for node in source.tree.body)
            )
            if decorated:
                yield exam.find("enabled.library-register-absent", library.path, 1, library=library.name)


def stale_server(exam: Examination) -> Iterator[Finding]:
    """A server of this host that does not reload and is older than the module's newest source."""
    if not exam.view.servers:
        return
    newest = max(
        ((source.path.stat().st_mtime, source.path) for source in exam.sources if source.path.exists()),
        default=(0.0, exam.module.folder),
    )
    for server in exam.view.servers:
        if server.began < newest[0] and exam.view.entry_of(exam.module) is not None:
            values = {"process": server.process, "file_name": exam.view.relative(newest[1])}
            yield exam.find("enabled.server-stale", newest[1], 0, **values)


STATIC = (
    parse,
    undefined,
    attributes,
    too_early,
    listeners,
    models_package,
    misnamed,
    commands,
    tag_libraries,
    stale_server,
)
