"""The mends that are safe: by the code of the finding, what is edited. ``rules.toml`` marks the same codes mendable."""

from __future__ import annotations

import ast
from collections.abc import Callable
from typing import TYPE_CHECKING

from ....core.changes import ChangeSet
from ....core.errors import Refused
from ....core.lines import plain_lines, python_lines
from ....edits.catalogue import compiled
from ....edits.python import Text, remove_item
from ....edits.source import SourceText
from ...contract.exchange import Mend
from .registration import brief_of, switch_on

if TYPE_CHECKING:
    from ....core.findings import Finding
    from .view import HostView

Mender = Callable[["HostView", "Finding"], Mend]


def mend(view: HostView, finding: Finding) -> Mend:
    """Return the mend of a finding; raises Refused where it cannot be done safely."""
    return MENDS[finding.code](view, finding)


def _register(view: HostView, finding: Finding) -> Mend:
    module = view.module(finding.module)
    if module is None:
        raise _unsafe(finding, "the module is not there any more")
    return Mend(switch_on(view, module, None).changes, settle=view.interpreter is not None)


def _settle(view: HostView, finding: Finding) -> Mend:
    return Mend(ChangeSet(""), settle=True)


def _place(view: HostView, finding: Finding) -> Mend:
    from .placing import replace

    module = view.module(finding.module)
    brief = brief_of(module) if module is not None else None
    if module is None or brief is None:
        raise _unsafe(finding, "the brief cannot be read any more")
    return Mend(replace(view, module, None, brief))


def _compile(view: HostView, finding: Finding) -> Mend:
    source = view.root / finding.file
    target = source.with_suffix(".mo")
    changes = ChangeSet("check --mend")
    try:
        content = compiled(source.read_bytes())
    except ValueError as error:
        raise _unsafe(finding, str(error)) from None
    changes.add(view.relative(target), target.read_bytes() if target.is_file() else None, content)
    return Mend(changes)


def _marker(view: HostView, finding: Finding) -> Mend:
    changes = ChangeSet("check --mend")
    changes.add(f"{finding.file}/__init__.py", None, b"")
    return Mend(changes)


def _second_entry(view: HostView, finding: Finding) -> Mend:
    def edit(text: str) -> str:
        for node in ast.walk(ast.parse(text)):
            if isinstance(node, ast.List | ast.Tuple):
                for index, element in enumerate(node.elts):
                    if element.lineno == finding.line and isinstance(element, ast.Constant):
                        return remove_item(text, node, index)
        raise _unsafe(finding, "the entry stands in no list written out")

    return _edited(view, finding, edit)


def _comma(view: HostView, finding: Finding) -> Mend:
    first = finding.value("first_name")

    def edit(text: str) -> str:
        lines = python_lines(text)
        for index in range(finding.line - 1, len(lines)):
            for quote in ('"', "'"):
                entry = f"{quote}{first}{quote}"
                place = lines[index].find(entry)
                if place >= 0:
                    after = place + len(entry)
                    lines[index] = lines[index][:after] + "," + lines[index][after:]
                    return "".join(lines)
        raise _unsafe(finding, "the entry was not found again")

    return _edited(view, finding, edit)


def _literal(old: str, new: Callable[[Finding], str]) -> Mender:
    """Make a mender that replaces one text literal on the line of the finding: the value that ``old`` names."""

    def mender(view: HostView, finding: Finding) -> Mend:
        there = finding.value(old)

        def edit(text: str) -> str:
            source = Text(text)
            for node in ast.walk(ast.parse(text)):
                if isinstance(node, ast.Constant) and node.lineno == finding.line and node.value == there:
                    start, end = source.start(node), source.end(node)
                    spelled = text[start:end]
                    if there and there in spelled:
                        return text[:start] + spelled.replace(there, new(finding), 1) + text[end:]
            raise _unsafe(finding, "the text was not found again")

        return _edited(view, finding, edit)

    return mender


def _as_view(view: HostView, finding: Finding) -> Mend:
    def edit(text: str) -> str:
        source = Text(text)
        for node in ast.walk(ast.parse(text)):
            if isinstance(node, ast.Call) and node.lineno == finding.line and len(node.args) > 1:
                if isinstance(node.args[1], ast.Name | ast.Attribute):
                    end = source.end(node.args[1])
                    return text[:end] + ".as_view()" + text[end:]
        raise _unsafe(finding, "the address was not found again")

    return _edited(view, finding, edit)


def _rename(view: HostView, finding: Finding) -> Mend:
    wanted = finding.value("wanted")
    module = view.module(finding.module)
    path = view.root / finding.file
    if module is None or not path.is_file() or (module.folder / wanted).exists():
        raise _unsafe(finding, "only a single file can be renamed, where nothing stands in its place")
    content = path.read_bytes()
    changes = ChangeSet("check --mend")
    changes.add(view.relative(module.folder / wanted), None, content)
    changes.add(finding.file, content, None)
    return Mend(changes)


def _load_library(view: HostView, finding: Finding) -> Mend:
    tag = f"{{% load {finding.value('library')} %}}"

    def edit(text: str) -> str:
        lines = plain_lines(text)
        at = 1 if lines and "{% extends" in lines[0] else 0
        end = "\r\n" if "\r\n" in text else "\n"
        return "".join([*lines[:at], tag + end, *lines[at:]])

    return _edited(view, finding, edit, python=False)


def _edited(view: HostView, finding: Finding, edit: Callable[[str], str], python: bool = True) -> Mend:
    """Edit the file of a finding; a Python file must still parse."""
    path = view.root / finding.file
    before = path.read_bytes()
    try:
        source = SourceText.python(before) if python else SourceText(before.decode("utf-8"))
        text = edit(source.text)
        if python:
            ast.parse(text)
    except (SyntaxError, UnicodeDecodeError) as error:
        raise _unsafe(finding, str(error)) from None
    changes = ChangeSet("check --mend")
    changes.add(finding.file, before, source.with_text(text).content())
    return Mend(changes)


def _unsafe(finding: Finding, why: str) -> Refused:
    return Refused("mend-unsure", f"{finding.place}: {why}.", finding.mend)


MENDS: dict[str, Mender] = {
    "registered.not-listed": _register,
    "registered.other-settings": _register,
    "routed.not-included": _register,
    "registered.listed-twice": _second_entry,
    "registered.comma-absent": _comma,
    "found.misspelt": _literal("entry", lambda finding: finding.value("near")),
    "described.name-disagrees": _literal("said", lambda finding: finding.value("package")),
    "installed.not-applied": _settle,
    "installed.database-absent": _settle,
    "permitted.group-absent": _settle,
    "permitted.group-behind": _settle,
    "placed.block-not-placed": _place,
    "placed.catalogue-not-compiled": _compile,
    "installed.marker-absent": _marker,
    "enabled.file-misnamed": _rename,
    "routed.slash-first": _literal("route", lambda finding: finding.value("route").lstrip("/")),
    "routed.class-not-instance": _as_view,
    "placed.library-unloaded": _load_library,
}
