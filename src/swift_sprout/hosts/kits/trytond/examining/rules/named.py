"""What the code and the data name and nothing brings: ids of data, states of wizards, transitions, models, reports."""

from __future__ import annotations

import ast
import re
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from ......core.nearest import misspelt, said_near
from ...reading.code import CodeClass, spelled
from ..examination import near

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination

#  calls that are given the id of a record of data, with the position (the host's reference, 8.2)
_TAKE_IDS = {"StateView": 1, "StateAction": 0, "button_action": 0}
_TAKE_PARTS = ("Id", "get_id")  # that are given the module and the id by themselves


def ids(exam: Examination) -> Iterator[Finding]:
    """Ids of views, actions and messages that the code names and no data file brings."""
    start = f"{exam.module.name}."
    known = exam.module.ids
    for file in exam.module.code_files:
        for node in ast.walk(file.tree) if file.tree is not None else ():
            for said in _named_ids(node):
                name = said.value.removeprefix(start) if isinstance(said.value, str) else ""
                if isinstance(said.value, str) and said.value.startswith(start) and name not in known:
                    yield exam.find(
                        "installed.id-unknown", file.path, said.lineno, id=said.value, near=near(name, known)
                    )


def _named_ids(node: ast.AST) -> list[ast.Constant]:
    """Return the constants of a call, or of a list of constraints, that are ids of records."""
    if isinstance(node, ast.Call):
        called = spelled(node.func).rpartition(".")[2]
        if called in _TAKE_PARTS and len(node.args) == 2 and all(isinstance(one, ast.Constant) for one in node.args):
            module, name = node.args
            assert isinstance(module, ast.Constant) and isinstance(name, ast.Constant)
            return [ast.Constant(f"{module.value!s}.{name.value!s}", lineno=name.lineno, col_offset=name.col_offset)]
        position = _TAKE_IDS.get(called)
        one = node.args[position] if position is not None and len(node.args) > position else None
        return [one] if isinstance(one, ast.Constant) else []
    target: ast.expr | None = node.target if isinstance(node, ast.AugAssign) else None
    if isinstance(node, ast.Assign) and len(node.targets) == 1:
        target = node.targets[0]
    if target is not None and spelled(target).rpartition(".")[2] == "_sql_constraints":
        assert isinstance(node, ast.Assign | ast.AugAssign)
        rows = node.value.elts if isinstance(node.value, ast.List) else []
        last = [row.elts[-1] for row in rows if isinstance(row, ast.Tuple) and len(row.elts) == 3]
        return [one for one in last if isinstance(one, ast.Constant)]
    return []


def wizards(exam: Examination) -> Iterator[Finding]:
    """States of wizards without the method that they need, and methods of states that are not there."""
    for _, found in exam.listed:
        if found.sort != "wizard" or any(base.rpartition(".")[2] != "Wizard" for base in found.bases):
            continue
        if sum(one.model == found.model for module in exam.view.modules for one in module.shared.models) > 1:
            continue  # the host mixes it with what another module brings of that name
        states = {
            name: spelled(value.func).rpartition(".")[2]
            for name, value in found.assigned.items()
            if isinstance(value, ast.Call) and spelled(value.func).rpartition(".")[2].startswith("State")
        }
        for name, sort in states.items():
            wanted = f"transition_{name}"
            if sort == "StateTransition" and wanted not in found.methods:
                methods = [method for method in found.methods if method.startswith("transition_")]
                yield exam.find(
                    "placed.wizard-transition", found.path, found.assigned[name].lineno, wizard=found.model,
                    state=name, method=wanted, near=near(wanted, methods),
                )  # fmt: skip

    yield from _leading_nowhere(exam)


def stray_methods(exam: Examination) -> Iterator[Finding]:
    """Methods of wizards that are named like those of a state, and for a state that nearly is there."""
    for _, found in exam.listed:
        parts = [one for module in exam.view.modules for one in module.shared.models if one.model == found.model]
        if found.sort != "wizard" or len(parts) != 1:
            continue
        states = {name for name, value in found.assigned.items() if isinstance(value, ast.Call)}
        for name, method in found.methods.items():
            start, _, state = name.partition("_")
            if start in ("do", "transition", "default", "value") and state and state not in states:
                silent = [one for one in states if f"{start}_{one}" not in found.methods]
                alike = [one for one in silent if one.strip("_") == state.strip("_")]
                meant = alike[0] if alike else misspelt(state, silent)
                if meant:
                    yield exam.find(
                        "placed.wizard-method", found.path, method.lineno, wizard=found.model, method=name, state=meant
                    )


def icons(exam: Examination) -> Iterator[Finding]:
    """Icons of wizards' buttons that must mean one which the host or a module brings."""
    for file in exam.module.code_files:
        for node in ast.walk(file.tree) if file.tree is not None and b"Button(" in file.content else ():
            if not isinstance(node, ast.Call) or spelled(node.func).rpartition(".")[2] != "Button":
                continue
            said = node.args[2] if len(node.args) > 2 else None
            if isinstance(said, ast.Constant) and isinstance(said.value, str):
                known = exam.icons
                if said.value not in known and misspelt(said.value, known):
                    yield exam.find(
                        "placed.icon-unknown", file.path, said.lineno, what=f"the button {ast.unparse(node.args[0])}",
                        icon=said.value, near=near(said.value, known),
                    )  # fmt: skip


def _leading_nowhere(exam: Examination) -> Iterator[Finding]:
    """Yield what transitions of wizards return that is no state: the host looks for it when somebody comes there."""
    for sort, found in exam.listed:
        parts = [one for module in exam.view.modules for one in module.shared.models if one.model == found.model]
        plain = all(base.rpartition(".")[2] == "Wizard" for one in parts for base in one.bases)
        if sort != "wizard" or not plain or not any(one.sort == "wizard" for one in parts):
            continue
        states = {"end", *(name for one in parts for name in one.fields)}
        for name, method in found.methods.items():
            for said in _returned(method) if name.startswith("transition_") else ():
                if said.value not in states:
                    yield exam.find(
                        "placed.wizard-state", found.path, said.lineno, wizard=found.model, method=name,
                        state=str(said.value), near=near(str(said.value), states),
                    )  # fmt: skip


def _returned(method: ast.FunctionDef) -> Iterator[ast.Constant]:
    """Yield the texts that a method returns as they stand; none of one with functions inside."""
    nodes = list(ast.walk(method))
    if any(isinstance(node, ast.FunctionDef | ast.Lambda) for node in nodes if node is not method):
        return
    waiting = [node.value for node in nodes if isinstance(node, ast.Return) and node.value is not None]
    while waiting:
        one = waiting.pop()
        if isinstance(one, ast.IfExp):
            waiting += [one.body, one.orelse]
        elif isinstance(one, ast.Constant) and isinstance(one.value, str):
            yield one


def transitions(exam: Examination) -> Iterator[Finding]:
    """Methods that lead to a state into which no transition leads, or about which the workflow knows nothing."""
    for _, found in exam.listed:
        pairs = _pairs(found)
        if pairs is None:
            continue
        into = {to for _, to in pairs}
        for name, method in found.methods.items():
            for decorator in method.decorator_list:
                state = _transition(decorator)
                if state and state.value not in into:
                    meant = _misspelt_states(found, str(state.value))
                    yield exam.find(
                        "installed.transition-absent", found.path, meant[0].lineno if meant else state.lineno,
                        model=found.model, method=name, state=state.value, near=near(str(state.value), into),
                    )  # fmt: skip
        yield from _buttons_without_way(exam, found, pairs)


def _misspelt_states(found: CodeClass, state: str) -> list[ast.Constant]:
    """Return the states of transitions that must mean another, which the field of the state offers and they do not."""
    offered = {
        str(pair.elts[0].value)
        for node in (ast.walk(found.assigned["state"]) if "state" in found.assigned else ())
        for pair in (node.elts if isinstance(node, ast.List) else ())
        if isinstance(pair, ast.Tuple) and pair.elts and isinstance(pair.elts[0], ast.Constant)
    }
    return [
        one
        for node in ast.walk(found.node)
        if isinstance(node, ast.Tuple) and len(node.elts) == 2
        for one in node.elts
        if isinstance(one, ast.Constant) and isinstance(one.value, str) and state in offered
        if one.value not in offered and misspelt(one.value, [state])
    ]


def _buttons_without_way(exam: Examination, found: CodeClass, pairs: set[tuple[str, str]]) -> Iterator[Finding]:
    """Yield states that a button is shown for and from which no transition leads where the button does."""
    shown = _shown_in(found)
    for name, method in found.methods.items():
        state = next((one for one in map(_transition, method.decorator_list) if one is not None), None)
        for before, line in shown.get(name, ()):
            if state is not None and (before, str(state.value)) not in pairs:
                yield exam.find(
                    "installed.transition-unsaid", found.path, line, model=found.model, button=name, before=before,
                    state=state.value,
                )  # fmt: skip


def _shown_in(found: CodeClass) -> dict[str, list[tuple[str, int]]]:
    """Return the one state in which each button is shown, where its condition says just that."""
    shown: dict[str, list[tuple[str, int]]] = {}
    for node in ast.walk(found.node):
        if not isinstance(node, ast.Dict):
            continue
        for key, value in zip(node.keys, node.values, strict=True):
            if not (isinstance(key, ast.Constant) and isinstance(value, ast.Dict)):
                continue
            for word, condition in zip(value.keys, value.values, strict=True):
                if isinstance(word, ast.Constant) and word.value == "invisible" and isinstance(condition, ast.Compare):
                    only = condition.comparators[0]
                    if isinstance(condition.ops[0], ast.NotEq) and isinstance(only, ast.Constant):
                        shown.setdefault(str(key.value), []).append((str(only.value), condition.lineno))
    return shown


def _pairs(found: CodeClass) -> set[tuple[str, str]] | None:
    """Return the transitions of a class; None where its code does not say them all."""
    pairs: set[tuple[str, str]] = set()
    said = False
    for node in ast.walk(found.node):
        if isinstance(node, ast.AugAssign | ast.Assign):
            target = node.target if isinstance(node, ast.AugAssign) else node.targets[0]
            if spelled(target).rpartition(".")[2] != "_transitions":
                continue
            said = True
            value = node.value
            if isinstance(value, ast.Call) and spelled(value.func) in ("set", "frozenset") and value.args:
                value = value.args[0]
            for pair in value.elts if isinstance(value, ast.Set | ast.Tuple | ast.List) else [None]:
                if not isinstance(pair, ast.Tuple) or not all(isinstance(one, ast.Constant) for one in pair.elts):
                    return None
                pairs.add((str(pair.elts[0].value), str(pair.elts[1].value)))  # type: ignore[attr-defined]
    plain = all(base.rpartition(".")[2] in _PLAIN_BASES for base in found.bases)
    return pairs if said and plain and not found.extends else None


#  bases that bring no transitions of their own
_PLAIN_BASES = ("Workflow", "ModelSQL", "ModelView", "ModelStorage", "DeactivableMixin", "MultiValueMixin", "Model")


def _transition(decorator: ast.expr) -> ast.Constant | None:
    if isinstance(decorator, ast.Call) and spelled(decorator.func) == "Workflow.transition" and decorator.args:
        return decorator.args[0] if isinstance(decorator.args[0], ast.Constant) else None
    return None


def buttons(exam: Examination) -> Iterator[Finding]:
    """Methods that are buttons of their model and do not ask whether the button may be pressed."""
    for _, found in exam.listed:
        named: set[object] = set()
        for node in ast.walk(found.methods["__setup__"]) if "__setup__" in found.methods else ():
            if isinstance(node, ast.Call) and spelled(node.func) == "cls._buttons.update":
                keys = node.args[0].keys if node.args and isinstance(node.args[0], ast.Dict) else []
                named |= {key.value for key in keys if isinstance(key, ast.Constant)}
                named |= {word.arg for word in node.keywords if word.arg}
        for name in sorted(map(str, named)):
            method = found.methods.get(name)
            if method is not None and not any("button" in ast.unparse(one) for one in method.decorator_list):
                yield exam.find("permitted.button-unasked", found.path, method.lineno, model=found.model, button=name)


def models(exam: Examination) -> Iterator[Finding]:
    """Models that the code asks the pool for and that no module brings."""
    known = {*exam.models.by_name, *exam.models.wizards}
    if not exam.view.core or not exam.models.complete:
        return
    start = f"{exam.module.name}."
    for file in exam.module.code_files:
        for node in ast.walk(file.tree) if file.tree is not None and b"pool" in file.content.lower() else ():
            if not isinstance(node, ast.Call) or not node.args or not isinstance(node.args[0], ast.Constant):
                continue
            name = node.args[0].value
            called = ast.unparse(node.func)
            if called not in ("pool.get", "Pool().get", "self.pool.get") or not isinstance(name, str) or name in known:
                continue
            if any(word.arg == "type" for word in node.keywords) or len(node.args) > 1:
                continue
            if name.startswith(start) or misspelt(name, known):  # others may be of modules that need not be there
                yield exam.find("registered.model-unknown", file.path, node.lineno, model=name, near=near(name, known))


def reports(exam: Examination) -> Iterator[Finding]:
    """Reports that an action names and nobody brings, and fields that their templates read and that are not there."""
    known = exam.view.reports
    drawn = {record.text("report_name") for record in exam.module.records if record.model == "ir.action.report"}
    for record in exam.module.records:
        if record.model != "ir.action.report" or record.update:
            continue
        field = record.field("report_name")
        name = field.text.strip() if field is not None else ""
        meant = misspelt(name, known - drawn) if name not in known else None
        if field is not None and meant:  # a name that no class has is drawn without one
            yield exam.find("placed.report-unknown", record.path, field.line, name=name, near=said_near(meant))
        model = exam.models.owned().get(record.text("model"))
        path = exam.module.folder.parent / record.text("report")
        if model is None or model.open or not record.text("report") or not path.is_file():
            continue
        for name, line in _read_by_template(path):
            if name not in model.fields and name not in model.methods:
                yield exam.find(
                    "placed.report-field", path, line, model=record.text("model"), field=name,
                    near=near(name, model.fields),
                )  # fmt: skip


def report_files(exam: Examination) -> Iterator[Finding]:
    """Templates of reports that are not there."""
    for record in exam.module.records:
        field = record.field("report") if record.model == "ir.action.report" else None
        owner, slash, below = field.text.strip().partition("/") if field is not None else ("", "", "")
        module = exam.view.module(owner)
        if field is None or not slash or module is None or set(record.depends) - set(exam.view.by_name):
            continue
        path = module.folder / below
        if not path.exists():
            there = [one.name for one in path.parent.iterdir()] if path.parent.is_dir() else []
            yield exam.find(
                "placed.report-absent", record.path, field.line, id=record.id, path=field.text.strip(),
                near=near(path.name, there),
            )  # fmt: skip


_LOOP = re.compile(r"for\s+(\w+)\s+in\s+records\b|each=\"(\w+)\s+in\s+records\"")


def _read_by_template(path: Path) -> Iterator[tuple[str, int]]:
    """Yield what a report's template reads of the records it is drawn for, with the line; 0 in an office document."""
    if path.suffix in (".txt", ".html", ".xml", ".csv"):
        text = path.read_text("utf-8", "replace")
    elif path.suffix in (".odt", ".ods", ".fodt", ".fods"):
        try:
            with zipfile.ZipFile(path) as archive:
                text = archive.read("content.xml").decode("utf-8", "replace").replace("&quot;", '"')
        except (OSError, KeyError, zipfile.BadZipFile):
            return
    else:
        return
    names = {first or second for first, second in _LOOP.findall(text)} | {"record"}
    for found in re.finditer(rf"\b(?<![.\w'\"])({'|'.join(names)})\.([a-z]\w*)(?!\w*\s*=)", text):
        line = 0 if path.suffix.startswith((".od", ".fod")) else text.count("\n", 0, found.start()) + 1
        yield found.group(2), line


def setters(exam: Examination) -> Iterator[Finding]:
    """Function fields of several rows that may be changed and have nobody who keeps the change."""
    for sort, found in exam.listed:
        for name, value in found.assigned.items() if sort == "model" else ():
            if not isinstance(value, ast.Call) or spelled(value.func) != "fields.Function" or not value.args:
                continue
            inner = value.args[0]
            if not isinstance(inner, ast.Call) or spelled(inner.func) != "fields.One2Many":
                continue
            words = {word.arg for word in (*value.keywords, *inner.keywords)}
            if not words & {"setter", "readonly", "states", "loading"} and len(value.args) < 3:
                yield exam.find("installed.setter-absent", found.path, value.lineno, model=found.model, field=name)
