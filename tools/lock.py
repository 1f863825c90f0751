"""Writes tools/locked.txt: every package of our own builds with its version and the hashes of its files.

``python tools/lock.py`` resolves pyproject.toml for each Python and machine below through pip; nothing is installed.
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import tomllib
from pathlib import Path

REPOSITORY = Path(__file__).parent.parent
LOCK = REPOSITORY / "tools/locked.txt"
PYTHONS = ("3.11", "3.12", "3.13", "3.14")
MACHINES = ("x86_64", "aarch64")
BUILDING = ("setuptools==80.9.0", "wheel")
HEAD = """# Every package of our own builds, with hashes of its files: Python 3.11 to 3.14, Linux, x86_64 and aarch64.
# Made by `python tools/lock.py`; a package marked "runs" is one that the program itself runs with.
"""


def needed() -> tuple[list[str], list[str]]:
    """Return what the program runs with, and what is wanted beside to build and try it."""
    project = tomllib.loads((REPOSITORY / "pyproject.toml").read_text("utf-8"))["project"]
    return list(project["dependencies"]), [*project["optional-dependencies"]["develop"], *BUILDING]


def resolved(python: str, machine: str, wanted: list[str]) -> dict[tuple[str, str], set[str]]:
    """Return name and version of each package that pip would install, with the hashes of its files."""
    platforms = [f"manylinux2014_{machine}", f"manylinux_2_28_{machine}", f"manylinux_2_17_{machine}"]
    with tempfile.TemporaryDirectory() as folder:
        report = Path(folder, "report.json")
        command = [sys.executable, "-m", "pip", "install", "--quiet", "--dry-run", "--ignore-installed"]
        command += ["--report", str(report), "--target", str(Path(folder, "none")), "--python-version", python]
        command += [word for platform in platforms for word in ("--platform", platform)]
        subprocess.run([*command, "--only-binary", ":all:", *wanted], check=True)
        found: dict[tuple[str, str], set[str]] = {}
        for one in json.loads(report.read_text("utf-8"))["install"]:
            name = one["metadata"]["name"].lower().replace("_", "-").replace(".", "-")
            key = (name, one["metadata"]["version"])
            found.setdefault(key, set()).add(one["download_info"]["archive_info"]["hashes"]["sha256"])
        return found


def main() -> int:
    """Write the file."""
    runs, beside = needed()
    running: set[str] = set()
    found: dict[tuple[str, str], set[str]] = {}
    for python in PYTHONS:
        for machine in MACHINES:
            running |= {name for name, _ in resolved(python, machine, runs)}
            for key, hashes in resolved(python, machine, [*runs, *beside]).items():
                found.setdefault(key, set()).update(hashes)
    lines = [HEAD]
    for (name, version), hashes in sorted(found.items()):
        pins = "".join(f" \\\n    --hash=sha256:{one}" for one in sorted(hashes))
        lines.append(f"{name}=={version}{pins}{'  # runs' if name in running else ''}\n")
    LOCK.write_text("".join(lines), "utf-8")
    print(f"{len(found)} packages, {len(running)} of them run with the program")
    return 0


if __name__ == "__main__":
    sys.exit(main())
