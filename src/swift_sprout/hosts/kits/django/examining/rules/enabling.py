"""Enabled: the host starts with the module, has it in its registry, and its own checks pass."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path

from ......core.findings import Finding
from ...asking import last_place, said
from ..examination import Examination

ERROR_LEVEL = 40
#  warnings of the host that always hold (Django 5.2): a default that is called once, at the start
SURE_WARNINGS = ("fields.W161",)
#  of several that one line causes, those that name it come before those that only miss what it should have been
_NAMING = ("fields.E30", "fields.E331", "fields.W161")


def stopped(exam: Examination) -> Iterator[Finding]:
    """The module stops the host at its start or in its address table."""
    assert exam.live is not None
    error = exam.live.stopped.get(exam.module.name)
    if error is None:
        return
    file, line = last_place(error, exam.module.folder) or (exam.module.folder / "__init__.py", 1)
    text = said(error)
    kinds = {entry["kind"] for entry in error["chain"]}
    if "SystemExit" in kinds:
        code = "enabled.ends-host"
    elif "partially initialized module" in text:
        code = "enabled.circular-import"
    elif error["step"] == "setup":
        code = "enabled.host-stops"
    else:
        code = "routed.broken"
    yield exam.find(code, file, line, error=text)


def registry(exam: Examination) -> Iterator[Finding]:
    """Listed in the files but not in the running host's registry."""
    assert exam.live is not None
    if exam.live.failure or exam.live.first_registry is None or exam.view.entry_of(exam.module) is None:
        return
    if exam.module.name not in exam.live.first_registry:
        settings = exam.live.answers.get("entry", {}).get("settings_module", "")
        path = exam.view.settings.path if exam.view.settings else None
        yield exam.find("enabled.not-in-registry", path or "", 0, settings=settings)


def host_checks(exam: Examination) -> Iterator[Finding]:
    """Errors that the host's own checks report for the module."""
    assert exam.live is not None
    messages = exam.live.answers.get("checks") or []
    for message in sorted(messages, key=lambda one: not one["id"].startswith(_NAMING)):
        if message["id"].startswith("urls."):
            continue  # said by the rules for addresses, with their place
        mine = message["label"] == exam.module.label or exam.owns(message["module"])
        if mine and (message["level"] >= ERROR_LEVEL or message["id"] in SURE_WARNINGS):
            file, line = _place_of(exam, message)
            place = exam.view.relative(file)
            hint = message["hint"] or f"fix {place}{f':{line}' if line else ''}"
            yield exam.find("enabled.check-failed", file, line, text=f"{message['text']} ({message['id']})", hint=hint)


def _place_of(exam: Examination, message: dict[str, str]) -> tuple[Path, int]:
    """Find the class (and the field) that a message of the host's checks is about."""
    words = message["object"].strip("<>").replace("class ", "").strip("'").split(".")
    for source in exam.sources:
        for node in ast.walk(source.tree) if source.tree else ():
            if isinstance(node, ast.ClassDef) and node.name in words:
                for statement in node.body:
                    target = statement.targets[0] if isinstance(statement, ast.Assign) else None
                    if isinstance(target, ast.Name) and (target.id == words[-1] or target.id in message["text"]):
                        return source.path, statement.lineno
                return source.path, node.lineno
    path = exam.view.project.file_of(message["module"])
    if path is None:
        return exam.module.folder / "models.py", 0
    parsed = exam.view.project.parse(path)
    for node in parsed.tree.body if parsed is not None and parsed.tree is not None else ():
        if isinstance(node, ast.FunctionDef) and f"'{node.name}'" in message["text"]:
            return path, node.lineno
    options = re.findall(r"'(\w+)(?:\[\d+\])?'", message["text"])
    lines = path.read_text("utf-8", "replace").splitlines()
    return path, next((number for number, line in enumerate(lines, 1) if any(f"{one}=" in line for one in options)), 0)


def commands(exam: Examination) -> Iterator[Finding]:
    """Console commands that the running host cannot load."""
    assert exam.live is not None
    for entry in exam.live.answers.get("broken_commands") or ():
        if entry["module"] == exam.module.name:
            own = exam.module.folder / "management" / "commands" / f"{entry['name']}.py"
            file, line = last_place(entry["error"], exam.module.folder) or (own, 1)
            yield exam.find("enabled.command-broken", file, line, name=entry["name"], error=said(entry["error"]))


LIVE = (stopped, registry, host_checks, commands)
