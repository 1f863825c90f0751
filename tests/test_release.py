"""What is shipped: the same wheel from two builds, a bill of what it runs with, packages known by their hashes."""

import json
import os
import shutil
import subprocess
import sys
import tomllib
import zipfile
from pathlib import Path

from tools.bill import bill, locked

from .support import REPOSITORY, Case

SOURCES = ("src", "docs/swift-sprout.1", "pyproject.toml", "README.md", "LICENSE")


class Release(Case):
    def build(self, name: str, age_seconds: int) -> Path:
        """Build the wheel in a copy of the sources whose files are of another age."""
        copy = self.folder / name
        copy.mkdir()
        for source in SOURCES:
            path = REPOSITORY / source
            (copy / source).parent.mkdir(exist_ok=True)
            ignore = shutil.ignore_patterns("__pycache__", "*.egg-info")
            shutil.copytree(path, copy / source, ignore=ignore) if path.is_dir() else shutil.copy(path, copy / source)
        for path in copy.rglob("*"):
            os.utime(path, (path.stat().st_atime, path.stat().st_mtime - age_seconds))
        command = [sys.executable, "-m", "pip", "wheel", "--quiet", "--no-deps", "--no-build-isolation"]
        environment = {**os.environ, "SOURCE_DATE_EPOCH": "1795000000"}
        subprocess.run([*command, "--wheel-dir", str(copy / "dist"), "."], cwd=copy, env=environment, check=True)
        return next((copy / "dist").glob("*.whl"))

    def test_two_builds_give_the_same_bytes_with_the_licence_in_it(self):
        first, second = self.build("first", 0), self.build("second", 86_400 * 400)
        self.assertEqual(first.read_bytes(), second.read_bytes())
        names = zipfile.ZipFile(first).namelist()
        self.assertTrue(any(name.endswith("LICENSE") for name in names))
        self.assertTrue(any(name.endswith("share/man/man1/swift-sprout.1") for name in names))
        for wanted in (
            "swift_sprout/cli/ticking.py",
            "swift_sprout/hosts/kits/wordpress/server.cnf",
            "swift_sprout/hosts/kits/wordpress/probe/rows.php",
        ):
            self.assertIn(wanted, names)

    def test_the_bill_lists_what_the_program_runs_with(self):
        document = bill()
        json.dumps(document)
        named = {one["name"] for one in document["components"]}
        project = tomllib.loads((REPOSITORY / "pyproject.toml").read_text())["project"]
        wanted = {
            one.split(">=")[0].split("==")[0].lower().replace("_", "-").replace(".", "-")
            for one in project["dependencies"]
        }
        self.assertLessEqual(wanted, named)
        self.assertNotIn("mypy", named)
        self.assertTrue(all(one["hashes"] for one in document["components"]))

    def test_every_package_of_the_lock_has_hashes_and_is_what_runs_here(self):
        import importlib.metadata

        for name, version, hashes, runs in locked():
            self.assertTrue(hashes, name)
            if runs:
                self.assertEqual(importlib.metadata.version(name), version, "run: make .venv/ready")
