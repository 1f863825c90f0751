"""Classes: what the code holds, and what the manifest registers."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from typing import TYPE_CHECKING

from ......core.nearest import nearest
from ...reading.code import SORTS, CodeClass, spelled
from ..examination import near

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination

_MESSAGE = re.compile(rb"""\b(?:lazy_gettext|gettext|ngettext)\(\s*((?:['"][\w.]*['"]\s*)+)[,)]""")
_SUPER = ("__setup__", "__post_setup__", "__register__")
#  what each module adds to in turn (its 8.2)
_HOOKS = (
    "view_attributes",
    "validate",
    "validate_fields",
    "check_modification",
    "preprocess_values",
    "compute_fields",
    "on_modification",
    "on_write",
    "on_delete",
)


def files(exam: Examination) -> Iterator[Finding]:
    """Python files that do not parse."""
    for file in exam.module.code_files:
        if file.broken is not None:
            reason = file.broken.msg or "it cannot be read"
            yield exam.find("registered.syntax", file.path, file.broken.lineno or 0, reason=reason)


def undefined(exam: Examination) -> Iterator[Finding]:
    """Names that code uses and nothing defines."""
    for file in exam.module.code_files if exam.view.undefined else ():
        for one in exam.view.undefined.get(str(file.path), ()):
            code = "served.name-undefined" if one.late else "registered.name-undefined"
            yield exam.find(code, file.path, one.line, name=one.name, near=one.near)


def listed(exam: Examination) -> Iterator[Finding]:
    """What the manifest lists: not there, of another sort, or without a name."""
    module = exam.module
    stems = {
        file.path.relative_to(module.folder).with_suffix("").as_posix().replace("/", ".") for file in module.code_files
    }
    for said in module.registered:
        file_name, _, name = said.text.rpartition(".")
        file = module.code_file(file_name)
        if file is None:
            shown = f"{file_name.replace('.', '/')}.py" if file_name else "__init__.py"
            yield exam.find(
                "registered.file-absent",
                said.path,
                said.line,
                listed=said.text,
                named=shown,
                near=near(file_name, stems),
            )
            continue
        found = module.registered_class(said.text)
        if found is None:
            if file.broken is None and not module.made_by_code(said):
                yield exam.find(
                    "registered.class-absent",
                    said.path,
                    said.line,
                    listed=said.text,
                    named=exam.view.relative(file.path),
                    near=near(name, file.classes),
                )
            continue
        if found.sort and found.sort != said.sort and said.sort in ("model", "wizard", "report", "router"):
            yield exam.find(
                "registered.sort-wrong", said.path, said.line, listed=said.text, said=said.sort, sort=found.sort
            )
        if said.module and said.module != module.name:
            yield exam.find(
                "registered.other-module", said.path, said.line, listed=said.text, said=said.module,
                near=near(said.module, [module.name]),
            )  # fmt: skip
        plain = all(base.rpartition(".")[2] in SORTS for base in found.bases)
        if not found.model and not found.name_untold and plain and (found.bases or found.extends):
            snake = "".join(f"_{letter.lower()}" if letter.isupper() else letter for letter in found.name).strip("_")
            yield exam.find("registered.name-missing", found.path, found.line, name=found.name, snake=snake)


def unlisted(exam: Examination) -> Iterator[Finding]:
    """Classes with a name of the host that the manifest does not list."""
    module = exam.module
    if module.manifest is None or module.manifest.broken is not None:
        return
    if module.by_function is not None and not module.by_function.sure:
        return
    known = {id(found.node) for _, found in exam.listed}
    names = {one.text.rpartition(".")[2] for one in module.registered}
    mixins = {option.rpartition(".")[2] for option in module.manifest.sections.get("register_mixin", {})}
    for found in module.classes:
        if not found.model or id(found.node) in known or found.name in names:
            continue
        if mixins & {base.rpartition(".")[2] for base in found.bases}:
            continue
        stem = found.path.relative_to(module.folder).with_suffix("").as_posix().replace("/", ".")
        listed_as = f"{stem}.{found.name}".removeprefix("__init__.")
        if module.by_function is not None:
            yield exam.find(
                "registered.class-left-out", exam.module.folder / "__init__.py", module.by_function.line,
                name=found.name, model=found.model, at=f"{exam.view.relative(found.path)}:{found.line}",
            )  # fmt: skip
            continue
        known_sort = "model" if found.model in exam.models.by_name else ""
        sort = found.sort or known_sort or "model"
        yield exam.find(
            "registered.class-unlisted",
            exam.manifest_path,
            module.manifest.option_line("register", sort) or module.manifest.section_lines.get("register", 0),
            at=f"{exam.view.relative(found.path)}:{found.line}",
            name=found.name,
            model=found.model,
            listed=listed_as,
            sort=sort,
        )


def names(exam: Examination) -> Iterator[Finding]:
    """Names that are taken, extended without saying so, or that nobody brings."""
    models = exam.models
    owned = models.owned()
    if not exam.view.core:
        return
    for sort, found in exam.listed:
        if sort in ("wizard", "report") and found.extends and not found.bases and models.complete:
            brought = _brought(exam, sort)
            if found.model and found.model not in brought:
                yield exam.find(
                    "registered.extends-nothing", found.path, found.model_line, name=found.name, model=found.model,
                    near=near(found.model, brought),
                )  # fmt: skip
        if sort != "model" or not found.model:
            continue
        owner = owned[found.model].owner if found.model in owned else ""
        if found.extends and not owner and models.complete and not found.sort and not found.bases:
            known = list(owned)
            yield exam.find(
                "registered.extends-nothing",
                found.path,
                found.model_line,
                name=found.name,
                model=found.model,
                near=near(found.model, known),
            )
        elif not found.extends and owner and owner != exam.module.name:
            plain = not found.bases or found.sort
            said = exam.view.needed(exam.module.name) | {item.text for item in exam.module.extras}
            if not plain or (found.sort and owner in said):
                continue  # its bases may say it, or it mixes with what it needs, as the host allows
            code = "registered.model-taken" if found.sort else "registered.not-extending"
            yield exam.find(code, found.path, found.line, name=found.name, model=found.model, owner=owner)


def _brought(exam: Examination, sort: str) -> set[str]:
    """Return the names of the wizards or reports that some module brings, and does not only extend."""
    every = [one for module in exam.view.by_name.values() for one in module.shared.models]
    return {one.model for one in every if one.sort in (sort, "") and (one.bases or not one.extends)}


def fields(exam: Examination) -> Iterator[Finding]:
    """Fields that point at nothing, or name methods and fields that are not there."""
    owned = exam.models.owned()
    if not exam.view.core:
        return
    for sort, found in exam.listed:
        if sort != "model":
            continue
        model = owned.get(found.model)
        for field in found.fields.values():
            if field.target and field.target not in owned and field.target not in exam.models.wizards:
                if not exam.models.complete:
                    continue
                yield exam.find(
                    "installed.target-unknown", found.path, field.line, model=found.model, field=field.name,
                    target=field.target, near=near(field.target, owned),
                )  # fmt: skip
            elif field.reverse and field.target in owned and not owned[field.target].open:
                known = owned[field.target].fields
                for reverse in field.reverse.split():
                    if reverse not in known:
                        yield exam.find(
                            "installed.reverse-unknown", found.path, field.line, model=found.model, field=field.name,
                            target=field.target, reverse=reverse, near=near(reverse, known),
                        )  # fmt: skip
            if model is not None and not model.open:
                for method in field.methods:
                    if method not in model.methods and method not in _GIVEN:
                        yield exam.find(
                            "installed.getter-absent",
                            found.path,
                            field.line,
                            model=found.model,
                            field=field.name,
                            method=method,
                            name=found.name,
                            near=near(method, model.methods),
                        )
        if model is not None and not model.open:
            yield from _names_of_fields(exam, found, set(model.fields))


_GIVEN = frozenset({"get_rec_name", "search_rec_name", "get_xml_id", "search_xml_id", "get_multivalue"})


def _names_of_fields(exam: Examination, found: CodeClass, known: set[str]) -> Iterator[Finding]:
    shown = found.assigned.get("_rec_name")
    if isinstance(shown, ast.Constant) and isinstance(shown.value, str) and shown.value not in known:
        yield exam.find(
            "installed.rec-name",
            found.path,
            shown.lineno,
            model=found.model,
            field=shown.value,
            near=near(shown.value, known),
        )
    nodes: list[ast.AST] = list(found.node.body)
    nodes += ast.walk(found.methods["__setup__"]) if "__setup__" in found.methods else []
    for node in nodes:
        pairs: list[ast.expr] = []
        if isinstance(node, ast.Assign) and spelled(node.targets[0]) in ("cls._order", "_order"):
            pairs = node.value.elts if isinstance(node.value, ast.List) else []
        elif isinstance(node, ast.Call) and spelled(node.func) in ("cls._order.insert", "cls._order.append"):
            pairs = node.args[-1:]
        if pairs:
            for pair in pairs:
                first = pair.elts[0] if isinstance(pair, ast.Tuple) and pair.elts else None
                if isinstance(first, ast.Constant) and isinstance(first.value, str):
                    name = first.value.partition(".")[0]
                    if name not in known:
                        yield exam.find(
                            "installed.order-unknown",
                            found.path,
                            first.lineno,
                            model=found.model,
                            field=name,
                            near=near(name, known),
                        )
    for name, method in found.methods.items():
        field = name.removeprefix("default_")
        if name.startswith("default_") and field not in known and field != "get" and nearest(field, known):
            yield exam.find(
                "installed.default-unknown",
                found.path,
                method.lineno,
                model=found.model,
                field=field,
                near=near(field, known),
            )


def setup(exam: Examination) -> Iterator[Finding]:
    """Methods that the host calls while it sets up, or of each module in turn, and that do not hand on."""
    for _, found in exam.listed:
        for name in _SUPER + _HOOKS:
            method = found.methods.get(name)
            if method is None or any(isinstance(node, ast.Name) and node.id == "super" for node in ast.walk(method)):
                continue
            if name in _SUPER or _hides_another(exam, found, name):
                arguments = ", ".join(one.arg for one in method.args.args[1:])
                yield exam.find(
                    "installed.super-missing", found.path, method.lineno, method=name, name=found.name,
                    arguments=arguments,
                )  # fmt: skip


def _hides_another(exam: Examination, found: CodeClass, method: str) -> bool:
    """True where a class extends a model of which another module brings the same method."""
    return found.extends and any(
        method in one.methods
        for name, module in exam.view.by_name.items()
        if name != exam.module.name and name in exam.view.needed(exam.module.name)
        for one in module.shared.models
        if one.model == found.model
    )


_SETTINGS = re.compile(r"config|setting|setup|preference")


def singletons(exam: Examination) -> Iterator[Finding]:
    """Models that code reads as the one row that settings have, and that are not made for one row."""
    plain = {
        found.model: found
        for sort, found in exam.listed
        if sort == "model" and found.sort == "model" and not found.extends and _SETTINGS.search(found.model)
        if all(base.rpartition(".")[2] in ("ModelSQL", "ModelView", "ModelStorage") for base in found.bases)
    }
    for file in exam.module.code_files if plain else ():
        for function in ast.walk(file.tree) if file.tree is not None else ():
            if not isinstance(function, ast.FunctionDef):
                continue
            names = _models_by_name(function)
            for node in ast.walk(function):
                if isinstance(node, ast.Call) and len(node.args) == 1 and not node.keywords and _is_one(node.args[0]):
                    model = names.get(spelled(node.func)) or _model_got(node.func)
                    found = plain.pop(model, None)
                    if found is not None:
                        at = f"{exam.view.relative(file.path)}:{node.lineno}"
                        yield exam.find(
                            "registered.not-singleton", found.path, found.line, name=found.name, model=model, at=at
                        )


def _models_by_name(function: ast.FunctionDef) -> dict[str, str]:
    """Return the models that names of a function stand for, as it gets them from the pool."""
    found = {}
    for node in ast.walk(function):
        if isinstance(node, ast.Assign) and len(node.targets) == 1 and isinstance(node.targets[0], ast.Name):
            model = _model_got(node.value)
            if model:
                found[node.targets[0].id] = model
    return found


def _model_got(node: ast.expr) -> str:
    """Return the model that an expression gets from the pool by its name; empty for another expression."""
    if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr == "get" and node.args:
        first = node.args[0]
        return str(first.value) if isinstance(first, ast.Constant) and "." in str(first.value) else ""
    return ""


def _is_one(node: ast.expr) -> bool:
    return isinstance(node, ast.Constant) and node.value == 1 and node.value is not True


def messages(exam: Examination) -> Iterator[Finding]:
    """Messages of this module that the code says and no data file brings."""
    known = {record.id for record in exam.module.records if record.model == "ir.message"}
    start = f"{exam.module.name}."
    for file in exam.module.code_files:
        for found in _MESSAGE.finditer(file.content):
            said = "".join(re.findall(r"[\w.]+", found.group(1).decode()))
            name = said.removeprefix(start)
            if said.startswith(start) and name not in known:
                line = file.content.count(b"\n", 0, found.start(1)) + 1
                yield exam.find("installed.message-unknown", file.path, line, message=said, near=near(name, known))
