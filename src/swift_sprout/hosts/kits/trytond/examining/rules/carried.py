"""What the host's own checks say of the module, and what came of it when all that it carries was used once."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ......core.nearest import misspelt, said_near, slip_in
from ...asking import last_place, said
from ..breaking import is_broken, what_broke
from ..examination import near
from .told import carried, of_left_out

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ...reading.code import CodeClass
    from ..examination import Examination

#  the rung that each of the host's checks is about; all others are of what is installed
_PLACED = ("wizards",)
#  what it says of things that are right in a module of another style
_STYLE = re.compile(r"Missing setter on model|unused .* files|Missing \"[^\"]*\" in \"|Missing \"_parent_")


def checks(exam: Examination) -> Iterator[Finding]:
    """What the host's own checks say, at the line of what they are about."""
    told = set()
    for failed in (exam.by_module("checks") or ()) if exam.loaded else ():
        reason = said(failed["error"])
        if of_left_out(exam, failed["error"]):
            continue
        if not failed["says"] and not (is_broken(failed["error"]["chain"][-1]) or _misses_field(exam, failed)):
            continue
        if failed["says"]:
            reason = reason.removeprefix("AssertionError: ").strip()
        if reason.startswith("Unknown button state"):
            continue  # told at the button
        if _STYLE.search(reason) or (_FOR_NO_FIELD.search(reason) and not _slip(exam, failed["about"])):
            continue
        place = _place(exam, failed, reason)
        if place is None:
            continue
        file, line = place
        rung = "placed" if failed["check"] in _PLACED else "installed"
        subject = asked[0] if (asked := _ASKED_FOR.match(reason)) else reason
        if (file, line, subject) in told:
            continue
        told.add((file, line, subject))
        about = ", ".join(_short(value) for key, value in failed["about"].items() if key != "element")
        yield exam.find(f"{rung}.host-check", file, line, about=about or exam.module.name, reason=reason)


#  a method that is named like those of fields, as any method may be
_FOR_NO_FIELD = re.compile(r"Field method .* for unknown field")


def _slip(exam: Examination, about: Mapping[str, str]) -> bool:
    """True where a method is named for a field that is nearly one of its model."""
    model = exam.models.owned().get(_short(about.get("model", "")))
    field = re.sub(r"^(default|on_change_with|on_change|column|order|domain|autocomplete)_", "", about.get("attr", ""))
    return model is not None and misspelt(field, model.fields) is not None


def _misses_field(exam: Examination, failed: Mapping[str, Any]) -> bool:
    """True where the domain of a field asks for what it spells itself and its target does not have."""
    last = failed["error"]["chain"][-1]
    if failed["check"] != "field_relation_domain" or last["kind"] != "KeyError":
        return False
    word, about = str(last["text"]).strip("'"), failed["about"]
    return any(
        f"'{word}'" in ast.unparse(one.assigned[about["field"]])
        for one in exam.module.classes
        if one.model == _short(about.get("model", "")) and about.get("field") in one.assigned
    )


def _short(value: str) -> str:
    """Return a thing as people name it: a model by its name."""
    named = re.search(r"'trytond\.pool\.([\w.-]+)'", value)
    return named.group(1) if named else value


def _place(exam: Examination, failed: Mapping[str, Any], reason: str) -> tuple[Path | str, int] | None:
    """Return file and line of what a check is about: where it broke, else where the thing stands.

    None for a thing that another module brings to the same model, which is told of that module.
    """
    about = {key: _short(value) for key, value in failed["about"].items()}
    if not failed["says"]:
        file, line = last_place(exam.view, failed["error"])
        if file and exam.module.own and file.startswith(exam.view.relative(exam.module.folder)):
            return file, line
    words = re.findall(r"[\"']([\w.]+)[\"']", reason)
    record = next((one for one in exam.module.records if one.id in words and one.id not in ("id",)), None)
    if record is not None:
        return record.path, record.line
    model = about.get("model") or about.get("wizard") or next(iter(words), "")
    members = [about[key] for key in ("attr", "function", "state", "button", "field", "method") if key in about]
    names = [word for word in (*words, *members) if word != model]
    asked = _ASKED_FOR.match(reason)
    for found in (one for one in exam.module.classes if one.model == model and asked):
        assert asked is not None
        line = line_in(found, [asked[1]]) or line_beside(exam, found, asked[1])
        if line:
            return found.path, line
    for found in [one for one in exam.module.classes if one.model == model]:
        line = line_in(found, names)
        if line:
            return found.path, line
    elsewhere = in_another(exam, model, names)
    if elsewhere is not None:
        module, path, line = elsewhere
        return None if exam.live is not None and module in exam.live.deep else (path, line)
    first = next((one for one in exam.module.classes if one.model == model), None)
    return (first.path, first.line) if first is not None else (exam.module.folder, 0)


#  a condition that asks for what its model does not have (the host's 8.2)
_ASKED_FOR = re.compile(r"Unknown \"(\w+)\" in ")


def line_beside(exam: Examination, found: CodeClass, text: str) -> int:
    """Return the line on which the file of a class spells a text outside of all classes; 0 for none."""
    file = next((one for one in exam.module.code_files if one.path == found.path), None)
    for statement in file.tree.body if file is not None and file.tree is not None else ():
        for node in () if isinstance(statement, ast.ClassDef) else ast.walk(statement):
            if isinstance(node, ast.Constant) and node.value == text:
                return node.lineno
    return 0


def in_another(exam: Examination, model: str, names: list[str]) -> tuple[str, Path, int] | None:
    """Return which other module of the host's own names something in its part of a model, and where."""
    for module in exam.view.modules:
        if module.own and module is not exam.module:
            for found in (one for one in module.classes if one.model == model):
                line = line_in(found, names)
                if line:
                    return module.name, found.path, line
    return None


def line_in(found: CodeClass, names: list[str]) -> int:
    """Return the line of a class on which one of some names stands: as a text, else as a field or method."""
    text = found.path.read_text("utf-8", "replace").splitlines()
    last = found.node.end_lineno or found.line
    for name in names:
        if name in found.methods:
            return found.methods[name].lineno
    for name in names:
        for number in range(found.line, last + 1):
            if re.search(rf"['\"]{re.escape(name)}['\"]", text[number - 1]):
                return number
    for name in names:
        if name in found.fields:
            return found.fields[name].line
    for name in names:
        for number in range(found.line, last + 1):
            if re.search(rf"\b{re.escape(name)}=[^=]", text[number - 1]):
                return number
    return 0


def rows(exam: Examination) -> Iterator[Finding]:
    """Models that cannot be searched, and fields that cannot be read."""
    told: set[tuple[str, int]] = set()
    for failed in carried(exam, "rows"):
        found = next((one for one in exam.module.classes if one.model == failed["model"]), None)
        file, line = last_place(exam.view, failed["error"])
        if not file and _brought_by_another(exam, failed["model"]):
            continue
        if not file:
            name = "table_query" if found is not None and "table_query" in found.methods else failed["field"]
            line = (line_in(found, [name]) or found.line) if found is not None else 0
            file = exam.view.relative(found.path if found is not None else exam.module.folder)
        if (file, line) in told:
            continue
        told.add((file, line))
        what = f"{failed['model']}.{failed['field']}" if failed["field"] else failed["model"]
        yield exam.find("installed.not-read", file, line, what=what, reason=said(failed["error"]))


def _brought_by_another(exam: Examination, model: str) -> bool:
    """True for a model that another module brings of which all is told as well."""
    known = exam.models.by_name.get(model)
    return exam.live is not None and known is not None and known.owner in exam.live.deep - {exam.module.name}


def values(exam: Examination) -> Iterator[Finding]:
    """Defaults that are not among what is offered, and constraints about columns that are no fields."""
    for told in carried(exam, "defaults"):
        place = _line_saying(exam, told["model"], f"default_{told['field']}", told["value"])
        if place is not None:
            named = {key: told[key] for key in ("model", "field", "value")}
            yield exam.find("installed.default-not-offered", *place, near=near(told["value"], told["known"]), **named)
    for told in carried(exam, "constraints"):
        place = _line_saying(exam, told["model"], "__setup__", told["constraint"], told["name"])
        if place is not None:
            what = f"constraint {told['constraint']}" if told["constraint"] else "index"
            named = {"model": told["model"], "what": what, "column": told["name"]}
            yield exam.find("installed.constraint-unknown", *place, near=near(told["name"], told["known"]), **named)


def _line_saying(exam: Examination, model: str, method: str, text: str, holds: str = "") -> tuple[Path, int] | None:
    """Return where a method of a model spells a text, else where it begins; None where no class of ours has it.

    holds -- what the method must hold, to be the one that is meant
    """
    for found in exam.module.classes:
        if found.model == model and method in found.methods and holds in ast.unparse(found.methods[method]):
            return found.path, _line_in_method(found, found.methods[method], text)
    return None


def _line_in_method(found: CodeClass, method: ast.FunctionDef, text: str) -> int:
    """Return the line of a method on which a text is spelled; else that of the method."""
    lines = found.path.read_text("utf-8", "replace").splitlines()
    for number in range(method.lineno, (method.end_lineno or method.lineno) + 1):
        if re.search(rf"['\"]{re.escape(text)}['\"]", lines[number - 1]):
            return number
    return method.lineno


def windows(exam: Examination) -> Iterator[Finding]:
    """Actions whose domains, order or context cannot be used."""
    for told in carried(exam, "windows"):
        words = re.findall(r"[\"']([\w.]+)[\"']", str(told["error"]["chain"][-1]["text"]))
        records = [one for one in exam.module.records if one.id == told["id"] or one.ref("act_window") == told["id"]]
        named = [
            (one.path, field.line)
            for one in records
            for field in one.fields
            if any(f"'{word}'" in field.eval + field.text for word in words)
        ]
        broke = last_place(exam.view, told["error"])
        code = [(exam.view.root / broke[0], broke[1])] if broke[0] else _lines_spelling(exam, words)
        places: list[tuple[Path, int]] = named or code or [(one.path, one.line) for one in records]
        path, line = places[0] if places else (exam.module.folder, 0)
        yield exam.find("placed.window-breaks", path, line, title=told["name"], reason=said(told["error"]))


def _lines_spelling(exam: Examination, words: Sequence[str]) -> list[tuple[Path, int]]:
    """Return where classes of the module spell one of some words: in domains, a name between points counts as well."""
    found = []
    for one in exam.module.classes:
        lines = one.path.read_text("utf-8", "replace").splitlines()
        for number in range(one.line, (one.node.end_lineno or one.line) + 1):
            if any(re.search(rf"['\".]{re.escape(word)}['\".]", lines[number - 1]) for word in words):
                found.append((one.path, number))
    return found


def reports(exam: Examination) -> Iterator[Finding]:
    """Reports that break when they are drawn."""
    for told in carried(exam, "reports"):
        if not told["error"] or not (what_broke(told["error"]) or _in_syntax(told["error"])):
            continue
        record = exam.module.ids.get(told["id"])
        file, line = _in_template(exam, told["error"])
        if not file and record is not None:
            drawn = exam.module.folder.parent / record.text("report")
            file, line = exam.view.relative(drawn if drawn.is_file() else record.path), 0
        yield exam.find(
            "placed.report-breaks", file or exam.module.folder, line, name=told["name"], reason=said(told["error"])
        )


def _in_syntax(error: Mapping[str, Any]) -> bool:
    """True for a template that does not parse, or reads a name that nobody gives it."""
    return str(error["chain"][-1]["kind"]).endswith(("SyntaxError", "ParseError", "UndefinedError"))


def _names_nothing(error: Mapping[str, Any], record: Any) -> bool:
    """True where a domain fails on a name that it spells itself; other keys may come with who asks."""
    last = error["chain"][-1]
    if last["kind"] != "KeyError" or record is None:
        return is_broken(last)
    word = re.escape(str(last["text"]).strip("'"))
    return any(re.search(rf"['\".]{word}['\".]", field.eval + field.text) for field in record.fields)


def _in_template(exam: Examination, error: Mapping[str, Any]) -> tuple[str, int]:
    """Return file and line of an error in a template: what the engine says of it, else the deepest line of the host."""
    text = str(error["chain"][-1]["text"])
    named = re.search(r"\(([^()]+\.\w+), line (\d+)\)|line (\d+)", text)
    if named and named.group(1) and Path(named.group(1)).is_file():
        return exam.view.relative(Path(named.group(1))), int(named.group(2))
    return last_place(exam.view, error)


def rights(exam: Examination) -> Iterator[Finding]:
    """Rights on buttons and fields that are not there, and rules whose domain does not hold."""
    for told in carried(exam, "rights"):
        record = exam.module.ids.get(told["id"])
        path: Path = record.path if record is not None else exam.module.folder
        if told["sort"] == "rule":
            if not _names_nothing(told["error"], record):
                continue
            file, line = (path, record.line) if record is not None else (path, 0)
            yield exam.find("permitted.rule-breaks", file, line, id=told["id"], reason=said(told["error"]))
            continue
        meant = misspelt(told["name"], told["known"]) or near(told["name"], told["known"])
        if told["sort"] == "button" and not meant:
            continue  # a right of its own, which code asks about
        field = record.field("name" if told["sort"] == "button" else "field") if record is not None else None
        yield exam.find(
            "permitted.right-of-nothing", path, field.line if field is not None else 0, sort=told["sort"],
            name=told["name"], model=told["model"], near=near(told["name"], told["known"]),
        )  # fmt: skip


def conditions(exam: Examination) -> Iterator[Finding]:
    """Conditions of buttons that ask for a field which the model does not have."""
    for told in carried(exam, "conditions"):
        for found in (one for one in exam.module.classes if one.model == told["model"]):
            line = line_in(found, [told["name"]])
            if line:
                yield exam.find(
                    "installed.condition-unknown", found.path, line, button=told["button"], model=told["model"],
                    state=told["state"], name=told["name"], near=near(told["name"], told["known"]),
                )  # fmt: skip
                break


def contexts(exam: Examination) -> Iterator[Finding]:
    """Contexts of fields that ask for what must mean another field of the model."""
    for told in carried(exam, "contexts"):
        found = next(
            (one for one in exam.module.classes if one.model == told["model"] and told["field"] in one.fields), None
        )
        if found is not None and slip_in(told["name"], told["known"]):
            line = line_in(found, [told["name"]]) or found.fields[told["field"]].line
            yield exam.find(
                "installed.context-unknown", found.path, line, model=told["model"], field=told["field"],
                name=told["name"], near=near(told["name"], told["known"]),
            )  # fmt: skip


def attributes(exam: Examination) -> Iterator[Finding]:
    """What models say of elements of their views that no view has, and conditions of them that ask for no field."""
    for told in carried(exam, "attributes"):
        word = told["name"] or told["path"]
        for found in (one for one in exam.module.classes if one.model == told["model"]):
            method = found.methods.get("view_attributes")
            if method is None:
                continue
            line = _line_in_method(found, method, word)
            if line == method.lineno and in_another(exam, told["model"], [told["path"]]):
                break  # what it hands on is told of the module that says it
            if told["name"] and slip_in(told["name"], told["known"]):
                yield exam.find(
                    "installed.attribute-condition", found.path, line, model=told["model"], path=told["path"],
                    name=told["name"], near=near(told["name"], told["known"]),
                )  # fmt: skip
            elif not told["name"] and (meant := _meant_element(told["path"], told["known"])):
                yield exam.find(
                    "installed.attribute-unplaced", found.path, line, model=told["model"], path=told["path"],
                    near=said_near(meant),
                )  # fmt: skip
            break


_ELEMENT = re.compile(r"@(?:name|id)\s*=\s*[\"']([\w.-]+)[\"']")


def _meant_element(path: str, known: Sequence[str]) -> str | None:
    """Return the element that a path must mean; None for one of other models, for which a shared base may say it."""
    absent = [word for word in _ELEMENT.findall(path) if word not in known]
    return next((meant for word in absent if (meant := slip_in(word, known))), None)


def updated(exam: Examination) -> Iterator[Finding]:
    """What the host's own step says that brings the database to what the files say, tried on a copy."""
    assert exam.live is not None
    error = exam.live.update_failure
    if error is None or exam.module.name not in exam.live.updated:
        return
    record = _record_named(exam, error)
    file, line = last_place(exam.view, error)
    if record is not None:
        words = re.findall(r"'([\w.]+)'", " ".join(str(one["text"]) for one in error["chain"]))
        field = next((one for one in record.fields if one.name in words), None)
        yield exam.find(
            "installed.update-fails", record.path, field.line if field else record.line, reason=_reasons(error)
        )
    elif file and file.startswith(exam.view.relative(exam.module.folder)):
        yield exam.find("installed.update-fails", file, line, reason=_reasons(error))
    elif not file and (len(exam.live.updated) == 1 or class_missing(exam, error)):
        path, line = class_missing(exam, error) or (exam.manifest_path, 0)
        yield exam.find("installed.update-fails", path, line, reason=_reasons(error))


#  what the host misses while it sets up a model, and the model: a method or field, or a class to extend (its 8.2)
_MISSING = re.compile(
    r"Missing (?P<name>\w+) on model (?P<model>[\w.-]+)"
    r"|type object '(?P<owner>[\w.-]+)' has no attribute '(?P<member>\w+)'"
    r"|<class 'trytond\.pool\.(?P<extended>[\w.-]+)'> is not a subclass"
)


def class_missing(exam: Examination, error: Mapping[str, Any]) -> tuple[Path, int] | None:
    """Return where the module names what the host misses while it sets up a model; None where it does not."""
    missing = _MISSING.search(str(error["chain"][-1]["text"]))
    if missing is None:
        return None
    model, name = missing["model"] or missing["owner"] or missing["extended"], missing["name"] or missing["member"]
    for found in (one for one in exam.module.classes if one.model == model):
        line = line_in(found, [name]) if name else found.model_line
        if line:
            return found.path, line
    return None


def _record_named(exam: Examination, error: Mapping[str, Any]) -> Any:
    """Return the record of the module that an error of the update names; None for none."""
    for one in error["chain"]:
        named = re.search(rf"(?:record|menuitem) '{re.escape(exam.module.name)}\.([\w-]+)'", str(one["text"]))
        if named:
            return exam.module.ids.get(named.group(1))
    return None


def _reasons(error: Mapping[str, Any]) -> str:
    """Return an error with its cause behind it, in one line."""
    parts = []
    for one in error["chain"]:
        text = f"{one['kind']}: {' '.join(str(one['text']).split())[:160]}"
        if text not in parts:
            parts.append(text)
    return "; ".join(parts[:3])
