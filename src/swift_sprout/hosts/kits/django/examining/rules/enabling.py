"""Enabled: the host starts with the module, has it in its registry, and its own checks pass."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from ......core.findings import Finding
from ...asking import last_place, said
from ..examination import Examination

ERROR_LEVEL = 40


def stopped(one: Examination) -> Iterator[Finding]:
    """The module stops the host at its start or in its address table."""
    assert one.live is not None
    error = one.live.stopped.get(one.module.name)
    if error is None:
        return
    file, line = last_place(error, one.module.folder) or (one.module.folder / "__init__.py", 1)
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
    yield one.find(code, file, line, error=text)


def registry(one: Examination) -> Iterator[Finding]:
    """Listed in the files but not in the running host's registry."""
    assert one.live is not None
    if one.live.failure or one.live.first_registry is None or one.view.entry_of(one.module) is None:
        return
    if one.module.name not in one.live.first_registry:
        settings = one.live.answers.get("entry", {}).get("settings_module", "")
        path = one.view.settings.path if one.view.settings else None
        yield one.find("enabled.not-in-registry", path or "", 0, settings=settings)


def host_checks(one: Examination) -> Iterator[Finding]:
    """Errors that the host's own checks report for the module."""
    assert one.live is not None
    for message in one.live.answers.get("checks") or []:
        if message["id"].startswith("urls."):
            continue  # said by the rules for addresses, with their place
        mine = message["label"] == one.module.label or one.owns(message["module"])
        if mine and message["level"] >= ERROR_LEVEL:
            file, line = _place_of(one, message)
            hint = message["hint"] or f"mend {one.view.relative(file)}:{line}"
            yield one.find("enabled.check-failed", file, line, text=f"{message['text']} ({message['id']})", hint=hint)


def _place_of(one: Examination, message: dict[str, str]) -> tuple[Path, int]:
    """Find the class (and the field) that a message of the host's checks is about."""
    import ast

    words = message["object"].strip("<>").replace("class ", "").strip("'").split(".")
    for source in one.sources:
        for node in ast.walk(source.tree) if source.tree else ():
            if isinstance(node, ast.ClassDef) and node.name in words:
                for statement in node.body:
                    target = statement.targets[0] if isinstance(statement, ast.Assign) else None
                    if isinstance(target, ast.Name) and (target.id == words[-1] or target.id in message["text"]):
                        return source.path, statement.lineno
                return source.path, node.lineno
    return one.module.folder / "models.py", 0


LIVE = (stopped, registry, host_checks)
