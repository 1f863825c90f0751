"""Enabled: the sources parse, the host starts with the module, its own checks pass."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from .....core.findings import Finding
from ..examination import Examination
from ..live import last_place, said

ERROR_LEVEL = 40


def sources(one: Examination) -> Iterator[Finding]:
    """Files of the module that do not parse."""
    for source in one.sources:
        if source.broken and source.path.name != "apps.py":
            yield one.find(
                "enabled.source-broken",
                source.path,
                source.broken.line,
                reason=source.broken.reason,
                file_name=one.view.relative(source.path),
            )


def stopped(one: Examination) -> Iterator[Finding]:
    """The module stops the host at its start or in its address table."""
    assert one.live is not None
    error = one.live.stopped.get(one.module.name)
    if error is None:
        return
    file, line = last_place(error, one.module.folder) or (one.module.folder / "__init__.py", 1)
    code = "enabled.host-stops" if error["step"] == "setup" else "routed.broken"
    yield one.find(code, file, line, error=said(error))


def registry(one: Examination) -> Iterator[Finding]:
    """Listed in the files but not in the running host's registry."""
    assert one.live is not None
    if one.live.failure or "registry" not in one.live.answers or one.module.name in one.live.stopped:
        return
    if one.registered_as is None and one.view.entry_of(one.module) is not None:
        settings = one.live.answers.get("entry", {}).get("settings_module", "")
        yield one.find("enabled.not-in-registry", settings=settings)


def host_checks(one: Examination) -> Iterator[Finding]:
    """Errors that the host's own checks report for the module."""
    assert one.live is not None
    for message in one.live.answers.get("checks") or []:
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


STATIC = (sources,)
LIVE = (stopped, registry, host_checks)
