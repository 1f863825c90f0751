"""Messages and the values that are put into them: by the code that shows them, and by their translations."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

import polib

from ......core.nearest import slip_in
from ...reading.code import spelled
from ..examination import near
from .told import told_of_all

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination

_VALUE = re.compile(r"%\((\w+)\)")
_SHOW = {"gettext": 1, "lazy_gettext": 1, "ngettext": 2, "lazy_ngettext": 2}  # and how many arguments go by position


def values(exam: Examination) -> Iterator[Finding]:
    """Values that a message holds and the code that shows it does not give."""
    start = f"{exam.module.name}."
    texts = {record.id: record.text("text") for record in exam.module.records if record.model == "ir.message"}
    for file in exam.module.code_files:
        for node in ast.walk(file.tree) if file.tree is not None and b"gettext" in file.content else ():
            if not isinstance(node, ast.Call) or spelled(node.func).rpartition(".")[2] not in _SHOW or not node.args:
                continue
            said = node.args[0].value if isinstance(node.args[0], ast.Constant) else None
            text = texts.get(said.removeprefix(start)) if isinstance(said, str) and said.startswith(start) else None
            given = {word.arg for word in node.keywords}
            if text is None or None in given or not given:
                continue  # some are given by what the code puts together, or the text is shown as it is
            for name in sorted(set(_VALUE.findall(text)) - given):
                yield exam.find(
                    "installed.message-value", file.path, node.lineno, message=said, name=name,
                    near=near(name, [one for one in given if one]),
                )  # fmt: skip


def translations(exam: Examination) -> Iterator[Finding]:
    """Values that a translated message holds and its original does not."""
    for path in sorted((exam.module.folder / "locale").glob("*.po")) if exam.module.own else ():
        try:
            entries = polib.pofile(str(path))
        except (OSError, UnicodeDecodeError, ValueError):
            continue  # told of the catalogue
        for entry in entries:
            if not str(entry.msgctxt or "").startswith("model:ir.message,text:"):
                continue
            known = set(_VALUE.findall(f"{entry.msgid} {entry.msgid_plural}"))
            used = _VALUE.findall(" ".join([entry.msgstr, *entry.msgstr_plural.values()]))
            for name in dict.fromkeys(used):
                if name not in known:
                    yield exam.find(
                        "installed.translation-value", path, _line(path, name) or entry.linenum or 0,
                        message=str(entry.msgctxt).rpartition(":")[2], name=name, near=near(name, known),
                    )  # fmt: skip


def fields(exam: Examination) -> Iterator[Finding]:
    """Translations of fields that the models of the running host do not have, and nearly do: the host drops them."""
    known = told_of_all(exam, "fields")
    for path in sorted((exam.module.folder / "locale").glob("*.po")) if exam.module.own and known else ():
        try:
            entries = polib.pofile(str(path))
        except (OSError, UnicodeDecodeError, ValueError):
            continue  # told of the catalogue
        for entry in entries:
            context = _FIELD.match(str(entry.msgctxt or ""))
            names = known.get(context[1], ()) if context else ()
            meant = slip_in(context[2], names) if context and context[2] not in names else None
            if meant:
                yield exam.find(
                    "installed.translation-unknown", path, entry.linenum or 0, context=str(entry.msgctxt), near=meant
                )


_FIELD = re.compile(r"(?:field|help|selection):([\w.-]+),(\w+):")


def _line(path: Path, name: str) -> int:
    lines = path.read_text("utf-8", "replace").splitlines()
    return next((number for number, line in enumerate(lines, 1) if f"%({name})" in line), 0)
