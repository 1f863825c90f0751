"""What no page shows, told by the running host: templates, names that nothing reads, the administration's screens."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ......core.findings import Finding
from ......core.nearest import said_near
from ......disk.guard import read_content
from .....python.attributes import lines_asking
from .....python.code_errors import is_of_code
from ...asking import last_place, said
from ...reading.code import class_named
from ..examination import Examination

if TYPE_CHECKING:
    from collections.abc import Sequence

    from ...answers import Live, PageRequest
    from ...view import HostView


def _told(exam: Examination, what: str) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = ((exam.live.answers.get("closer") if exam.live else None) or {}).get(what, [])
    return found


def templates(exam: Examination) -> Iterator[Finding]:
    """Templates of the module that the host's engines cannot compile, or whose layout is not there."""
    for one in exam.live.undrawn if exam.live is not None else ():
        if exam.view.owner_of(one["file"]) == exam.module.name:
            yield unread_template(exam.view, one, exam.module.name)


def unread_template(view: HostView, told: dict[str, Any], owner: str) -> Finding:
    """Return the finding of a template that cannot be read; where nothing draws it, it is a note."""
    error = told["text"]
    if told["kind"] == "absent":
        error = f"it extends {told['text']}, which is in no template folder"
    drawn = view.drawing.is_named(told["name"]) or view.templates.replaces_package(told["name"])
    code = "served.template-unread" if drawn else "served.template-unread-idle"
    file, line = view.relative(Path(told["file"])), told["line"]
    values = {"template": told["name"], "error": error, "place": f"{file}:{line}" if line else file}
    return view.data.rules.finding(code, owner, file, line, **values)


def names(exam: Examination) -> Iterator[Finding]:
    """Names in classes that nothing reads, one letter off one that a base class has."""
    for one in _told(exam, "names"):
        source = exam.view.project.parse(path) if (path := exam.view.project.file_of(one["module"])) else None
        if source is None or source.tree is None or not exam.owns(one["module"]):
            continue
        holder = class_named(source.tree, one["class"].rpartition(".")[2])
        line = next((node.lineno for node in holder.body if one["name"] in _binds(node)), 0) if holder else 0
        if line and not _is_read(exam, one["name"]):
            values = {"holder": one["class"], "name": one["name"], "near": one["near"], "base": one["base"]}
            yield exam.find("enabled.name-misspelt", source.path, line, **values)


def arguments(exam: Examination) -> Iterator[Finding]:
    """Methods that cannot be called as the host calls them."""
    for one in _told(exam, "arguments"):
        path = exam.view.project.file_of(one["module"]) if exam.owns(one["module"]) else None
        source = exam.view.project.parse(path) if path is not None else None
        holder = class_named(source.tree, one["class"].rpartition(".")[2]) if source and source.tree else None
        line = next((node.lineno for node in holder.body if one["name"] in _binds(node)), 0) if holder else 0
        if source is not None and line:
            method = f"{one['class']}.{one['name']}"
            values = {"method": method, "own": one["own"], "wanted": one["wanted"], "base": one["base"]}
            yield exam.find("served.arguments-differ", source.path, line, **values)


def package_names(exam: Examination) -> Iterator[Finding]:
    """What the module's code asks of packages, and the versions that run do not have."""
    for one in _told(exam, "absent"):
        path = Path(one["file"])
        source = exam.view.project.parse(path) if exam.view.owner_of(one["file"]) == exam.module.name else None
        asked = lines_asking(source.tree, one["alias"], one["name"]) if source and source.tree else None
        if asked is not None:
            near = said_near(next(iter(one["near"]), None))
            values = {"name": one["name"], "of": one["of"], "near": near, "package": one["of"].partition(".")[0]}
            yield exam.find("served.package-lacks", path, asked[0], **values)


def columns(exam: Examination) -> Iterator[Finding]:
    """Columns of tables that show what the records do not have."""
    for one in _told(exam, "columns"):
        source = exam.view.project.parse(Path(one["file"])) if exam.owns(one["module"]) else None
        holder = class_named(source.tree, one["table"]) if source is not None and source.tree is not None else None
        if holder is None:
            continue
        texts = (node for node in ast.walk(holder) if isinstance(node, ast.Constant) and isinstance(node.value, str))
        named = (node.lineno for node in texts if one["name"] in re.split(r"__|\.", str(node.value)))
        line = next(named, next((node.lineno for node in holder.body if one["name"] in _binds(node)), holder.lineno))
        values = {"table": one["table"], "record": one["record"], "name": one["name"]}
        values |= {"near": said_near(next(iter(one["near"]), None))}
        yield exam.find("served.column-unknown", Path(one["file"]), line, **values)


def managers(exam: Examination) -> Iterator[Finding]:
    """What the code asks of the managers of records and they do not have."""
    for one in _told(exam, "managers"):
        path = Path(one["file"])
        if exam.view.owner_of(one["file"]) == exam.module.name:
            values = {"record": one["record"], "name": one["name"], "near": said_near(next(iter(one["near"]), None))}
            yield exam.find("served.manager-lacks", path, one["line"], **values)


def unsaved(exam: Examination) -> Iterator[Finding]:
    """Records whose ``save`` keeps nothing."""
    for one in _told(exam, "unsaved"):
        path = exam.view.project.file_of(one["module"]) if exam.owns(one["module"]) else None
        if path is not None:
            yield exam.find("served.record-unsaved", path, one["line"], record=one["record"])


def options(exam: Examination) -> Iterator[Finding]:
    """What forms say about fields that they do not have."""
    for one in _told(exam, "options"):
        path = exam.view.project.file_of(one["module"]) if exam.owns(one["module"]) else None
        source = exam.view.project.parse(path) if path is not None else None
        holder = class_named(source.tree, one["form"].rpartition(".")[2]) if source and source.tree else None
        if source is not None and holder is not None:
            words = (node for node in ast.walk(holder) if isinstance(node, ast.Constant) and node.value == one["name"])
            line = next((node.lineno for node in words), holder.lineno)
            values = {key: one[key] for key in ("form", "option", "name", "near")}
            yield exam.find("served.form-option-unknown", source.path, line, **values)


def _binds(node: Any) -> set[str]:
    names = {getattr(node, "name", "")}
    names |= {target.id for target in getattr(node, "targets", ()) if hasattr(target, "id")}
    return names | ({node.target.id} if hasattr(getattr(node, "target", None), "id") else set())


def _is_read(exam: Examination, name: str) -> bool:
    """True where a name stands at more places of the host than the one that binds it."""
    word = re.compile(rf"\b{re.escape(name)}\b")
    count = 0
    for text in exam.view.drawing.texts:
        count += len(word.findall(text))
        if count > 1:
            return True
    contents = (read_content(template.place).decode("utf-8", "replace") for template in exam.view.templates.all)
    return any(word.search(text) for text in contents)


def variables(exam: Examination) -> Iterator[Finding]:
    """What templates ask for and pages do not give them, where something of nearly that name is there.

    What a template only asks about, as in ``if``, may well not be there.
    """
    met: set[tuple[str, int]] = set()
    for asked in exam.asked:
        for missing in (one for one in asked.log.get("missing", ()) if one["near"]):
            name = rf"(?<![\w.'\"]){re.escape(missing['variable'])}(?![\w])"
            shown = re.compile(rf"\{{\{{[^}}]*{name}|\{{%\s*(?!if|elif)\w+[^%]*{name}")
            asked_about = re.compile(rf"\{{%\s*(el)?if[^%]*{name}")
            for template in asked.log.get("templates", ()):
                path = Path(template["file"])
                text = path.read_text("utf-8", "replace") if exam.view.owner_of(str(path)) else ""
                found = shown.search(text) if not asked_about.search(text) else None
                if found is None:
                    continue
                line = found.string.count("\n", 0, found.start()) + 1
                if (str(path), line) not in met:
                    met.add((str(path), line))
                    values = {**missing, "template": exam.view.relative(path), "path": asked.path}
                    yield exam.find("served.variable-misspelt", path, line, **values)
                break


def lists(exam: Examination) -> Iterator[Finding]:
    """Lists and things that a template of the module shows, and that no page which draws it gives it."""
    yield from not_given(exam.view, exam.live, exam.asked, exam.module.name)


def not_given(view: HostView, live: Live | None, requests: Sequence[PageRequest], owner: str) -> Iterator[Finding]:
    """Yield what templates of a module, or of none, show and no page gives them; each once."""
    every = [one for asked in (live.asked if live is not None else {}).values() for one in asked]
    layouts = {one.extends for module in view.modules for one in module.templates if one.extends}
    met: set[tuple[str, str]] = set()
    for asked in requests:
        for missing in (one for one in asked.log.get("missing", ()) if not one["near"]):
            for file in (str(one["file"]) for one in asked.log.get("templates", ())):
                key = file, missing["variable"]
                if key in met:
                    continue
                met.add(key)
                if view.owner_of(file) != owner or not Path(file).is_relative_to(view.root):
                    continue
                found = _shown(Path(file), missing)
                if found is None or not all(_misses(one, file, missing) for one in every):
                    continue
                if "of" in missing and file.rpartition("/templates/")[2] in layouts:
                    continue  # it is drawn for whatever extends it
                line, loops = found
                values = {"name": missing["name"], "variable": missing["variable"], "path": asked.path}
                place = view.relative(Path(file))
                values |= {"template": place, "of": missing.get("of", ""), "place": f"{place}:{line}"}
                code = "list" if loops else "variable"
                code = f"served.{code}-not-given" if "of" not in missing else "served.attribute-not-there"
                yield view.data.rules.finding(code, owner, place, line, **values)
                break


def _shown(file: Path, missing: dict[str, str]) -> tuple[int, bool] | None:
    """Return the line on which a template shows what is missing, and whether it loops over it; None for neither.

    What it only asks about, gives a default for, or shows by its plain name, may well not be there.
    """
    text = file.read_text("utf-8", "replace")
    name = re.escape(missing["variable"] if "of" in missing else missing["name"])
    loop = re.search(rf"\{{%\s*for\s+[\w, ]+\s+in\s+{name}(?:\.\w+)*\s*%\}}", text)
    more = "" if "of" in missing else r"\.[\w.]+"
    shown = re.search(rf"\{{\{{\s*{name}{more}\s*(?:\||\}}\}})(?!\s*default)", text)
    said = loop or shown
    asked_about = re.search(rf"\{{%\s*(el)?(if|with|firstof)[^%]*(?<![\w.]){name}\b", text)
    if said is None or asked_about:
        return None
    return text.count("\n", 0, said.start()) + 1, loop is not None


def _misses(asked: PageRequest, file: str, missing: dict[str, str]) -> bool:
    """True for a page that does not draw a template, or does not give it what is missing."""
    drawn = any(str(one["file"]) == file for one in asked.log.get("templates", ()))
    return not drawn or any(one["variable"] == missing["variable"] for one in asked.log.get("missing", ()))


#  what is done with made up values, or none
_TRIED = ("opened", "changed by actions", "sorted")


def administration(exam: Examination) -> Iterator[Finding]:
    """Records that the administration cannot list or search."""
    for one in _told(exam, "administration"):
        if not exam.owns(one["module"]) or (one["what"] in _TRIED and not is_of_code(one["error"])):
            continue
        path = exam.view.project.file_of(one["module"])
        source = exam.view.project.parse(path) if path is not None else None
        holder = class_named(source.tree, one["screen"]) if source is not None and source.tree is not None else None
        deepest = last_place(one["error"], exam.module.folder)
        wanted = {"searched": "search_fields", "changed by actions": "actions"}.get(one["what"], "list_display")
        said_at = next((node.lineno for node in holder.body if wanted in _binds(node)), 0) if holder else 0
        file, line = deepest or (path or exam.module.folder, said_at or (holder.lineno if holder else 0))
        yield exam.find(
            "served.screen-breaks", file, line, record=one["record"], what=one["what"], error=said(one["error"])
        )


LIVE = (
    templates,
    names,
    arguments,
    package_names,
    columns,
    managers,
    unsaved,
    options,
    variables,
    lists,
    administration,
)
