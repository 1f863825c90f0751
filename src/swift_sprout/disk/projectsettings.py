"""What a project's own files say of its checks: settings in a TOML file, and acceptances beside lines."""

from __future__ import annotations

import json
import re
from collections import Counter
from collections.abc import Iterable
from datetime import date, datetime
from pathlib import Path
from typing import Any

import tomli

from ..core.accepting import KnownFindings, known_as
from ..core.errors import Refused
from ..core.findings import Finding
from ..core.project import Acceptance, Project, ProjectSettings
from ..core.sections import TableWrong, section_from

OWN_FILE = "swift-sprout.toml"
IN_PROJECT = "pyproject.toml"
#  "# swift-sprout: accept routed.prefix-open because old links use it until 2027-03-01", in any kind of comment
_BESIDE = re.compile(
    r"swift-sprout:\s*accept\s+(?P<code>[\w.*-]+)\s+because\s+(?P<reason>.+?)"
    r"(?:\s+until\s+(?P<until>\d{4}-\d\d-\d\d))?\s*(?:-->|\*/|#\}|%\}|$)"
)


def project_of(folders: Iterable[Path]) -> Project:
    """Read what the first of some folders that says anything says; raises Refused for a file that is wrong."""
    for folder in folders:
        for name in (OWN_FILE, IN_PROJECT):
            try:
                data: dict[str, Any] = tomli.loads((folder / name).read_text("utf-8"))
            except FileNotFoundError:
                continue
            except (OSError, ValueError) as error:
                if name == IN_PROJECT:
                    continue  # it belongs to other tools as well: they tell what is wrong with it
                raise Refused("settings-wrong", f"{folder / name} cannot be read: {error}.", "Fix it.") from None
            tools = data.get("tool")
            table = data if name == OWN_FILE else tools.get("swift-sprout") if isinstance(tools, dict) else None
            if isinstance(table, dict):
                return Project(_settings(str(folder / name), table), str(folder), name)
    return Project()


def _settings(name: str, table: dict[str, Any]) -> ProjectSettings:
    for entry in table.get("accept", ()) if isinstance(table.get("accept"), list) else ():
        if (
            isinstance(entry, dict)
            and isinstance(entry.get("until"), date)
            and not isinstance(entry["until"], datetime)
        ):
            entry["until"] = entry["until"].isoformat()
    try:
        settings = section_from(ProjectSettings, table)
    except TableWrong as error:
        raise Refused("settings-wrong", f"{name}: {error.key}: {error.reason}.", error.remedy) from None
    for number, one in enumerate(settings.accept):
        if not one.reason.strip():
            raise Refused("settings-wrong", f"{name}: accept[{number}] has no reason.", "Write one.")
        if one.until and not _is_day(one.until):
            sentence = f"{name}: accept[{number}].until: {one.until!r} is no day."
            raise Refused("settings-wrong", sentence, "Write YYYY-MM-DD.")
    return settings


def _is_day(text: str) -> bool:
    try:
        date.fromisoformat(text)
    except ValueError:
        return False
    return True


def accepted_beside(root: Path, finding: Finding) -> Acceptance | None:
    """Return what a comment on the line of a finding, or on the one above it, accepts; None where there is none."""
    if not finding.file or not finding.line:
        return None
    try:
        lines = (root / finding.file).read_text("utf-8", "replace").splitlines()
    except OSError:
        return None
    for line in lines[max(0, finding.line - 2) : finding.line]:
        match = _BESIDE.search(line)
        if match and (not match["until"] or _is_day(match["until"])):
            return Acceptance(match["code"], match["reason"], until=match["until"] or "")
    return None


def inside(root: Path, name: str) -> Path:
    """Return the file of the project that its settings name; raises Refused where that leads out of its folder."""
    path = root / name
    if not path.resolve().is_relative_to(root.resolve()):
        raise Refused(
            "settings-wrong", f"known: {name} leads out of {root}.", "Name a file in that folder, or give --known."
        )
    return path


def known_findings(path: Path) -> KnownFindings:
    """Read the findings of an earlier check, of all its set-ups; raises Refused where the file is none."""
    try:
        document = json.loads(path.read_text("utf-8"))
        if document["format"] != "swift-sprout/check/1":
            raise ValueError("it is of another format")
        setup = document["setups"][0]
        findings = [*setup["findings"], *(one for module in setup["modules"] for one in module["findings"])]
        return Counter(known_as(one["code"], one["module"], one["file"], one["values"].items()) for one in findings)
    except (OSError, ValueError, KeyError, TypeError, IndexError) as error:
        raise Refused(
            "known-unreadable",
            f"{path} is no earlier check ({type(error).__name__}).",
            "Write one with: swift-sprout check --output FILE.json",
        ) from None
