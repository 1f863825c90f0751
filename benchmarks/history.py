"""The benchmark over the repository's history: a file for each commit that was measured, and a chart of all."""

from __future__ import annotations

import json
import math
import platform
import subprocess
from collections.abc import Sequence
from datetime import date
from pathlib import Path
from typing import Any

from trials.places import REPOSITORY

from .measure import Row

FOLDER = REPOSITORY / "benchmarks/history"
CHART = FOLDER / "chart.svg"
FORMAT = "swift-sprout/bench/1"
COLUMNS = 3


def document(rows: Sequence[Row]) -> dict[str, Any]:
    """Return the rows as one document, with the commit and the machine that they were measured on."""
    return {
        "format": FORMAT,
        "commit": _git("rev-parse", "--short", "HEAD"),
        "changed": bool(_git("status", "--porcelain", "--", "src")),
        "day": date.today().isoformat(),
        "python": platform.python_version(),
        "rows": [{**vars(row), "ratio": round(row.ratio, 3), "kept": row.kept} for row in rows],
    }


def keep(rows: Sequence[Row]) -> Path:
    """Keep what was measured of this commit; rows of an earlier run of it that were not measured again stay."""
    FOLDER.mkdir(exist_ok=True)
    new = document(rows)
    path = FOLDER / f"{new['day']}-{new['commit']}.json"
    if path.exists():
        measured = {row["name"] for row in new["rows"]}
        old = json.loads(path.read_text("utf-8"))["rows"]
        new["rows"] = [row for row in old if row["name"] not in measured] + new["rows"]
    path.write_text(json.dumps(new, indent=1) + "\n", "utf-8")
    return path


def draw() -> None:
    """Draw the ratios of all kept runs, one small chart a row, each with the line that it must stay below."""
    import matplotlib

    matplotlib.use("svg")
    matplotlib.rcParams.update({"svg.hashsalt": "swift-sprout", "font.size": 8})
    from matplotlib import pyplot

    runs = _in_order([json.loads(path.read_text("utf-8")) for path in sorted(FOLDER.glob("*.json"))])
    names = list(dict.fromkeys(row["name"] for run in reversed(runs) for row in run["rows"]))
    lines = math.ceil(len(names) / COLUMNS)
    figure, grid = pyplot.subplots(lines, COLUMNS, figsize=(12.8, 1.6 * lines + 0.5), squeeze=False)
    for cell in grid.flat[len(names) :]:
        cell.axis("off")
    commits = [run["commit"] for run in runs]
    for name, axes in zip(names, grid.flat, strict=False):
        found = [(at, row) for at, run in enumerate(runs) for row in run["rows"] if row["name"] == name]
        limit = found[-1][1]["at_most"]
        axes.axhline(limit, color="#b3541e", linewidth=1, linestyle="--")
        axes.errorbar(
            [at for at, _ in found],
            [row["ratio"] for _, row in found],
            yerr=[row["ratio"] * row["noise"] for _, row in found],
            color="#17495c",
            marker="o",
            markersize=4,
            capsize=2,
        )
        axes.set_title(f"{name}\n{found[-1][1]['ratio']:.2f}, at most {limit:g}", fontsize=7.5, loc="left")
        axes.set_xlim(-0.5, max(len(runs) - 0.5, 0.5))
        axes.set_ylim(0, max([limit, *(row["ratio"] * (1 + row["noise"]) for _, row in found)]) * 1.15)
        axes.set_xticks(range(len(runs)), commits, rotation=0, fontsize=6)
        axes.spines[["top", "right"]].set_visible(False)
    figure.tight_layout()
    figure.savefig(CHART, metadata={"Date": None})
    pyplot.close(figure)


def _in_order(runs: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Return runs in the order in which what they measured was written: several may be of one day."""
    written = _git("log", "--format=%h", "--reverse").split()
    return sorted(runs, key=lambda run: written.index(run["commit"]) if run["commit"] in written else -1)


def _git(*words: str) -> str:
    return subprocess.run(["git", *words], cwd=REPOSITORY, capture_output=True, text=True, check=True).stdout.strip()
