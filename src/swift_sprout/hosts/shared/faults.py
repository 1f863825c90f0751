"""Faults: small mutations that make a healthy module ill in exactly one way, as data that a kit brings.

A kit's ``faults/faults.toml`` holds a table for each code of a rule; ``faults/healthy`` the healthy module, laid over
the demo site. The bench applies each to a fresh copy and demands that the check names that cause first.
"""

from __future__ import annotations

import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any, NamedTuple

import tomli


class Fault(NamedTuple):
    """One fault: the code of the cause that must be named, its steps, and where the first finding must point.

    host -- the number of the host that it shares with others, which do not hide it, nor it them; 0 for one of its own
    """

    code: str
    steps: tuple[dict[str, str], ...]
    first: str
    module: str
    limit_seconds: float
    host: int = 0


def load_faults(folder: Path, module: str) -> list[Fault]:
    """Read the faults of a kit; ``module`` is the healthy module, which they are about where they name no other."""
    data: dict[str, Any] = tomli.loads((folder / "faults.toml").read_text("utf-8"))
    return [
        Fault(
            code,
            tuple(entry["steps"]),
            entry["first"],
            entry.get("module", module),
            entry.get("limit", 60.0),
            entry.get("host", 0),
        )
        for code, entry in data.items()
    ]


def apply_fault(fault: Fault, site: Path, run_sql: Callable[[str], None] | None = None) -> None:
    """Make a site ill; raises ValueError when a step does not fit, so that no fault is ever a silent nothing.

    run_sql -- carries out statements on the site's database
    """
    for step in fault.steps:
        if "sql" in step:
            if run_sql is None:
                raise ValueError(f"{fault.code} changes the database, but the site has none")
            run_sql(step["sql"])
        elif "move" in step:
            (site / step["to"]).parent.mkdir(parents=True, exist_ok=True)
            (site / step["move"]).rename(site / step["to"])
        elif "remove" in step:
            target = site / step["remove"]
            shutil.rmtree(target) if target.is_dir() else target.unlink()
        elif "text" in step:
            target = site / step["file"]
            target.parent.mkdir(parents=True, exist_ok=True)
            for folder in target.parents:
                if folder != site and folder.is_relative_to(site) and target.suffix == ".py":
                    (folder / "__init__.py").touch()
            target.write_text(step["text"], "utf-8")
        else:
            target = site / step["file"]
            text = target.read_text("utf-8")
            if text.count(step["old"]) != 1:
                raise ValueError(f"{fault.code}: {step['file']} holds {step['old']!r} {text.count(step['old'])} times")
            target.write_text(text.replace(step["old"], step["new"]), "utf-8")
