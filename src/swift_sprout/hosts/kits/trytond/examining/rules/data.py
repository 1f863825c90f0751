"""Data files: order, references, models, fields, views."""

from __future__ import annotations

import ast
import json
import re
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

import polib

from ......core.nearest import misspelt, nearest, said_near, slip_in
from ...reading.datafile import DataField, DataFile, DataRecord
from ..examination import near

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination

_VIEW_TYPES = ("tree", "form", "graph", "calendar", "board", "list-form")


def files(exam: Examination) -> Iterator[Finding]:
    """Data files that are not there, not listed, or cannot be read."""
    module = exam.module
    if module.manifest is None or module.manifest.broken is not None:
        return
    there = {path.relative_to(module.folder).as_posix() for path in module.folder.rglob("*.xml")}
    listed = {path for _, path in module.data_items()}
    for item, path in module.data_items():
        if path not in there and len(item.text.replace(",", " ").split()) == 1:
            yield exam.find(
                "installed.file-absent", exam.manifest_path, item.line, named=path, near=near(path, there - listed)
            )
    for file in module.data_files:
        if file.entity is not None:
            yield exam.find("installed.entity", file.path, file.entity[1], entity=file.entity[0])
        elif file.broken is not None:
            yield exam.find("installed.xml-broken", file.path, file.broken[1], reason=file.broken[0])
        elif file.root not in ("tryton", "data"):
            yield exam.find("installed.root", file.path, 1, root=file.root)
    for path in sorted(there - listed):
        if path.partition("/")[0] in ("view", "tests", "locale", "icons") or "/tests/" in path or "test" in path:
            continue
        found = DataFile(module.folder / path)
        stem = path.removesuffix(".xml")
        if any(re.fullmatch(rf"{re.escape(stem)}(_\d+)?_[a-z]{{2,3}}(_[A-Z]+)?\.xml", other) for other in listed):
            continue  # what the listed ones are made of, one for each language
        if found.root == "tryton" and found.records:
            line = module.manifest.option_line("tryton", "xml") if module.manifest is not None else 0
            yield exam.find(
                "installed.file-unlisted", exam.manifest_path, line, named=path,
                at=exam.view.relative(module.folder / path),
            )  # fmt: skip


def ids(exam: Examination) -> Iterator[Finding]:
    """Records without an id, and ids that are there twice."""
    first: dict[str, DataRecord] = {}
    for record in exam.module.records:
        if not record.id:
            yield exam.find("installed.id-missing", record.path, record.line, model=record.model)
            continue
        other = first.setdefault(record.id, record)
        if other is not record and not record.update:
            if not (set(record.depends) ^ set(other.depends)):
                place = f"{exam.view.relative(other.path)}:{other.line}"
                yield exam.find("installed.id-twice", record.path, record.line, id=record.id, first=place)


def references(exam: Examination) -> Iterator[Finding]:
    """References to records that are defined later, or nowhere."""
    if not exam.view.core:
        return
    seen: set[str] = set()
    later = exam.module.ids
    for record in exam.module.records:
        for field in record.fields:
            if field.ref and not (set(record.depends) | set(field.depends)) - set(exam.view.by_name):
                yield from _reference(exam, record, field, seen, later)
        seen.add(record.id)


def _reference(
    exam: Examination, record: DataRecord, field: DataField, seen: set[str], later: dict[str, DataRecord]
) -> Iterator[Finding]:
    module_name, dot, name = field.ref.partition(".")
    if not dot or module_name == exam.module.name:
        name = name if dot else module_name
        if name in seen or (name == record.id and record.model == "ir.ui.menu" and field.name != "parent"):
            return
        if name in later and name != record.id:
            other = later[name]
            yield exam.find(
                "installed.ref-later",
                record.path,
                field.line,
                id=record.id,
                ref=name,
                later=f"{exam.view.relative(other.path)}:{other.line}",
                later_file=other.path.name,
            )
        else:
            yield exam.find(
                "installed.ref-unknown", record.path, field.line, id=record.id, ref=field.ref, near=near(name, later)
            )
        return
    other_module = exam.view.module(module_name)
    if other_module is None:
        known = exam.view.by_name
        yield exam.find(
            "installed.ref-unknown", record.path, field.line, id=record.id, ref=field.ref, near=near(module_name, known)
        )
    elif name not in other_module.shared.ids:
        yield exam.find(
            "installed.ref-unknown",
            record.path,
            field.line,
            id=record.id,
            ref=field.ref,
            near=near(name, other_module.shared.ids),
        )


def models(exam: Examination) -> Iterator[Finding]:
    """Records of models, and fields of them, that are not there; and evals that are no Python."""
    if not exam.view.core:
        return
    known = exam.models.by_name
    for record in exam.module.records:
        if set(record.depends) - set(exam.view.by_name):
            continue
        for field in record.fields:
            if field.eval:
                try:
                    compile(field.eval.strip(), "eval", "eval")
                except (SyntaxError, ValueError) as error:
                    reason = getattr(error, "msg", str(error))
                    yield exam.find(
                        "installed.eval-broken", record.path, field.line, id=record.id, text=field.eval, reason=reason
                    )
        if record.menuitem:
            continue
        model = known.get(record.model)
        if model is None:
            if not exam.models.complete:
                continue
            yield exam.find(
                "installed.model-unknown",
                record.path,
                record.line,
                id=record.id,
                model=record.model,
                near=near(record.model, known),
            )
            continue
        for field in record.fields:
            if not model.open and field.name not in model.fields and not field.depends:
                yield exam.find(
                    "installed.field-unknown",
                    record.path,
                    field.line,
                    id=record.id,
                    field=field.name,
                    model=record.model,
                    near=near(field.name, model.fields),
                )
        named = record.text("model") if record.model == "ir.model.access" else ""
        if named and named not in known and exam.models.complete:
            said = record.field("model")
            yield exam.find(
                "permitted.model-unknown",
                record.path,
                said.line if said else record.line,
                id=record.id,
                model=named,
                near=near(named, exam.models.owned()),
            )


def views(exam: Examination) -> Iterator[Finding]:
    """Views whose file is not there, is of another type, or shows fields that the model has not."""
    module = exam.module
    there = sorted(path.stem for path in (module.folder / "view").glob("*.xml"))
    known = exam.models.by_name
    for record in module.records:
        if record.model != "ir.ui.view" or not record.text("name") or record.update:
            continue
        name = record.text("name")
        line = _line(record, "name")
        view = module.view_file(name)
        if view is None:
            yield exam.find("installed.view-absent", record.path, line, id=record.id, name=name, near=near(name, there))
            continue
        if view.broken is not None:
            yield exam.find("installed.view-broken", view.path, view.broken[1], reason=view.broken[0])
            continue
        said = record.text("type")
        if said in _VIEW_TYPES and view.root not in (said, "form" if said == "list-form" else said, "data"):
            yield exam.find(
                "installed.view-type",
                record.path,
                _line(record, "type"),
                id=record.id,
                type=said,
                named=exam.view.relative(view.path),
                root=view.root,
            )
        model = known.get(record.text("model"))
        if model is None or model.open or view.root == "data" or not exam.view.core:
            continue
        for element in view.elements:
            if element.tag == "field" and element.name and element.name not in model.fields:
                yield exam.find(
                    "installed.view-field",
                    view.path,
                    element.line,
                    field=element.name,
                    model=record.text("model"),
                    near=near(element.name, model.fields),
                )


def _line(record: DataRecord, name: str) -> int:
    field = record.field(name)
    return field.line if field is not None else record.line


def actions(exam: Examination) -> Iterator[Finding]:
    """Actions that start what is not there, or show views of another model; menu entries with unknown icons."""
    module = exam.module
    if not exam.view.core:
        return
    wizards = exam.models.wizards
    for record in module.records:
        if set(record.depends) - set(exam.view.by_name):
            continue
        name = record.text("wiz_name") if record.model == "ir.action.wizard" else ""
        if name and name not in wizards and exam.models.complete:
            yield exam.find(
                "placed.wizard-unknown",
                record.path,
                _line(record, "wiz_name"),
                id=record.id,
                wizard=name,
                near=near(name, wizards),
            )
        yield from _named_models(exam, record)
        if record.model == "ir.ui.icon" and record.text("path") and not (module.folder / record.text("path")).is_file():
            there = [one.relative_to(module.folder).as_posix() for one in module.folder.rglob("*.svg")]
            yield exam.find(
                "placed.icon-absent", record.path, _line(record, "path"), id=record.id, path=record.text("path"),
                near=near(record.text("path"), there),
            )  # fmt: skip
        if record.model == "ir.action.act_window.view":
            action, view = module.ids.get(record.ref("act_window")), module.ids.get(record.ref("view"))
            if action is not None and view is not None and action.text("res_model") and view.text("model"):
                if action.text("res_model") != view.text("model"):
                    yield exam.find(
                        "placed.view-other-model",
                        record.path,
                        _line(record, "view"),
                        id=record.id,
                        view=view.id,
                        view_model=view.text("model"),
                        action=action.id,
                        action_model=action.text("res_model"),
                    )
        icon = record.text("icon") if record.menuitem else ""
        if icon and icon not in exam.icons:
            yield exam.find(
                "placed.icon-unknown", record.path, record.line, what=f"the menu entry {record.id}", icon=icon,
                near=near(icon, exam.icons),
            )  # fmt: skip


#  fields of records that name a model, beside those that the host checks itself (its 8.2)
_NAME_MODELS = {
    "ir.action.wizard": ("model",),
    "ir.action.report": ("model",),
    "ir.action.act_window": ("res_model", "context_model"),
    "ir.ui.view": ("model",),
    "ir.rule.group": ("model",),
    "ir.model.button": ("model",),
}


def _named_models(exam: Examination, record: DataRecord) -> Iterator[Finding]:
    """Yield the models that an action, a view or a right names and that nearly are there."""
    known = exam.models.by_name
    for name in _NAME_MODELS.get(record.model, ()) if exam.models.complete else ():
        model = record.text(name)
        field = record.field(name)
        if model and field is not None and not field.ref and model not in known and misspelt(model, known):
            yield exam.find(
                "installed.model-named", record.path, field.line, id=record.id, model=model, near=near(model, known)
            )


def jobs(exam: Examination) -> Iterator[Finding]:
    """Scheduled jobs that call what is not there, or what the scheduler does not offer."""
    if not exam.view.core:
        return
    for record in exam.module.records:
        method = record.text("method") if record.model == "ir.cron" else ""
        if not method or set(record.depends) - set(exam.view.by_name):
            continue
        model_name, _, name = method.partition("|")
        model = exam.models.by_name.get(model_name)
        reason = ""
        if model is None and not exam.models.complete:
            continue
        if model is None:
            reason = f"no method of a model that is there{near(model_name, exam.models.by_name)}"
        elif name not in model.methods and not model.open:
            reason = f"no method of {model_name}{near(name, model.methods)}"
        elif not _offered(exam, method):
            reason = "not among those that the scheduler offers: ir.cron must be extended with it"
        if reason:
            yield exam.find(
                "installed.job-unknown",
                record.path,
                _line(record, "method"),
                id=record.id,
                method=method,
                reason=reason,
            )


_JOB = re.compile(r"[\w.-]+\|\w+")


def offered_jobs(exam: Examination) -> Iterator[Finding]:
    """Jobs that the module offers to the scheduler and that must mean another method of their model."""
    planned = {record.text("method") for record in exam.module.records if record.model == "ir.cron"}
    for _, found in exam.listed:
        for node in ast.walk(found.node) if found.model == "ir.cron" else ():
            job = node.value if isinstance(node, ast.Constant) else None
            if not isinstance(job, str) or not _JOB.fullmatch(job) or job in planned:
                continue  # what is planned as well is told there
            name, _, method = job.partition("|")
            model = exam.models.by_name.get(name)
            if model is not None and not model.open and method not in model.methods:
                meant = near(method, model.methods)
                if meant:
                    yield exam.find(
                        "installed.job-offered", found.path, getattr(node, "lineno", 0), job=job, model=name, near=meant
                    )


_ASKED = re.compile(r"Eval\(\s*['\"](\w+)['\"]")


def button_rules(exam: Examination) -> Iterator[Finding]:
    """Rules of buttons whose condition asks for what the button's model does not have."""
    for record in exam.module.records:
        if record.model != "ir.model.button.rule":
            continue
        button, condition = exam.module.ids.get(record.ref("button")), record.field("condition")
        model = exam.models.owned().get(button.text("model")) if button is not None else None
        if model is None or model.open or condition is None:
            continue
        for name in _ASKED.findall(condition.eval):
            if name not in model.fields and slip_in(name, model.fields):
                yield exam.find(
                    "permitted.button-rule", record.path, condition.line, id=record.id, name=name,
                    model=button.text("model") if button is not None else "", near=near(name, model.fields),
                )  # fmt: skip


def _offered(exam: Examination, method: str) -> bool:
    modules = [exam.module, *exam.view.core]
    modules += [found for name in exam.view.needed(exam.module.name) if (found := exam.view.module(name)) is not None]
    return any(any(method.encode() in file.content for file in module.code_files) for module in modules)


def catalogues(exam: Examination) -> Iterator[Finding]:
    """Translations that cannot be read."""
    for path in sorted((exam.module.folder / "locale").glob("*.po")) if exam.module.own else ():
        try:
            known = polib.pofile(str(path))
            yield from _unclosed(exam, path)
            yield from _contexts(exam, path, known)
        except (OSError, UnicodeDecodeError, ValueError) as error:
            line = "".join(letter for letter in str(error).partition("line ")[2][:6] if letter.isdigit())
            yield exam.find(
                "installed.catalogue-broken", path, int(line or 0), reason=" ".join(str(error).split())[:200]
            )


def _unclosed(exam: Examination, path: Path) -> Iterator[Finding]:
    """Lines of a catalogue whose quote is not closed: what reads it takes a letter for the quote, in silence."""
    for number, line in enumerate(path.read_text("utf-8", "replace").splitlines(), 1):
        bare = line.strip()
        quoted = bare.startswith(('"', "msgid ", "msgstr ", "msgctxt ", "msgid_plural ", "msgstr["))
        if quoted and (not bare.endswith('"') or bare.count('"') < 2):
            yield exam.find("installed.catalogue-broken", path, number, reason="the quote is not closed")
            return


def _contexts(exam: Examination, path: Path, known: polib.POFile) -> Iterator[Finding]:
    """Translations of fields and records that are not there, and nearly are: the host drops them."""
    owned = exam.models.owned()
    for entry in known:
        sort, _, rest = str(entry.msgctxt or "").partition(":")
        name, _, what = rest.partition(",")
        name = name.removesuffix(":")
        what = what.rstrip(":").partition(":")[2] or what.partition(":")[0]
        if sort in ("field", "help", "model", "selection", "view") and name not in owned:
            mine = [model for model, known in owned.items() if known.owner == exam.module.name]
            meant = misspelt(name, mine)
            if meant:
                yield exam.find(
                    "installed.translation-unknown", path, entry.linenum or 0, context=str(entry.msgctxt), near=meant
                )
        if sort in ("field", "help") and name in owned and not owned[name].open:
            field = what.partition(",")[0]
            meant = misspelt(field, owned[name].fields)
            if field not in owned[name].fields and meant:
                yield exam.find(
                    "installed.translation-unknown", path, entry.linenum or 0, context=str(entry.msgctxt), near=meant
                )
        elif sort == "model" and name.startswith(("ir.", "res.")) and what:
            meant = misspelt(what, exam.module.ids)
            if what not in exam.module.ids and meant:
                yield exam.find(
                    "installed.translation-unknown", path, entry.linenum or 0, context=str(entry.msgctxt), near=meant
                )


def samples(exam: Examination) -> Iterator[Finding]:
    """Sample data that cannot be read, or that is for records which are not there."""
    path = exam.module.folder / "sample_data.json"
    if not path.is_file() or any(one.name_untold for _, one in exam.listed):
        return
    try:
        entries = json.loads(path.read_text("utf-8"))
        names = {one_model.model.partition(".")[2].replace("_", "") for _, one_model in exam.listed if one_model.model}
        for entry in entries:
            if str(entry["record"]).lower() not in names:
                found = nearest(str(entry["record"]).lower(), names)
                raise ValueError(f"there is no record {entry['record']}{said_near(found)}")
            for row in entry["rows"]:
                row[entry["by"]]
    except (OSError, ValueError) as error:
        yield exam.find("installed.samples-broken", path, getattr(error, "lineno", 0), reason=str(error))
    except (KeyError, TypeError) as error:
        yield exam.find("installed.samples-broken", path, 0, reason=f"a row or entry lacks {error}")
