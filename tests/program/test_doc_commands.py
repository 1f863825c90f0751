"""Every command line in the docs is run, as it stands there, and prints what stands below it."""

import os
import re
import shlex
import subprocess
import sys
from pathlib import Path
from typing import NamedTuple

from ..support import DJANGO, REPOSITORY, SiteCase, sprout

DOCS = REPOSITORY / "docs"
PAGES = [DOCS / "story.md", DOCS / "continuous-integration.md", *sorted((DOCS / "tasks").glob("*.md"))]
MADE_BY_TOOL = ("reference.md", "real-modules.md")


class Shown(NamedTuple):
    """One command of a page, its exit status, and the lines that it prints among others."""

    command: str
    status: int
    lines: list[str]


def shown_in(page: Path) -> list[Shown]:
    found: list[Shown] = []
    for block in re.findall(r"^```console\n(.*?)^```", page.read_text("utf-8"), re.DOTALL | re.MULTILINE):
        for line in block.splitlines():
            if line.startswith("$ "):
                command, _, status = line[2:].partition("  # exit status ")
                found.append(Shown(command, int(status or 0), []))
            elif line.strip():
                found[-1].lines.append(line.strip())
    return found


def tidy(text: str) -> str:
    return " ".join(text.split())


class Pages(SiteCase):
    def gone_through(self, page: Path) -> None:
        (self.site / ".venv").symlink_to(DJANGO.parent.parent)
        program = f"{Path(sys.executable).parent}{os.pathsep}{os.environ['PATH']}"
        kept = {key: value for key, value in os.environ.items() if key not in ("VIRTUAL_ENV", "DJANGO_SETTINGS_MODULE")}
        environment = {**kept, "PATH": program, "COLUMNS": "120", "HOME": str(self.folder)}
        shown = shown_in(page)
        self.assertGreater(len(shown), 2, page)
        for one in shown:
            with self.subTest(f"{page.name}: {one.command}"):
                ran = subprocess.run(
                    ["bash", "-c", one.command], cwd=self.site, env=environment, capture_output=True, text=True
                )
                told = tidy(ran.stdout + ran.stderr)
                self.assertEqual(ran.returncode, one.status, told)
                self.assertNotIn("Traceback", ran.stderr)
                for line in one.lines:
                    self.assertIn(tidy(line), told)

    def test_the_story(self):
        self.gone_through(DOCS / "story.md")

    def test_continuous_integration(self):
        self.gone_through(DOCS / "continuous-integration.md")

    def test_make(self):
        self.gone_through(DOCS / "tasks/make.md")

    def test_add(self):
        self.gone_through(DOCS / "tasks/add.md")

    def test_check(self):
        self.gone_through(DOCS / "tasks/check.md")

    def test_why(self):
        self.gone_through(DOCS / "tasks/why.md")

    def test_mend(self):
        self.gone_through(DOCS / "tasks/mend.md")

    def test_accept(self):
        self.gone_through(DOCS / "tasks/accept.md")

    def test_configure(self):
        self.gone_through(DOCS / "tasks/configure.md")

    def test_rename_a_field(self):
        self.gone_through(DOCS / "tasks/rename-a-field.md")

    def test_rename(self):
        self.gone_through(DOCS / "tasks/rename.md")

    def test_patterns(self):
        self.gone_through(DOCS / "tasks/patterns.md")

    def test_hand_over(self):
        self.gone_through(DOCS / "tasks/hand-over.md")

    def test_test(self):
        self.gone_through(DOCS / "tasks/test.md")

    def test_every_page_of_tasks_has_a_test(self):
        tested = {name.removeprefix("test_").replace("_", "-") for name in dir(self) if name.startswith("test_")}
        for page in PAGES:
            self.assertIn(page.stem if page.stem != "story" else "the-story", tested)


class Elsewhere(SiteCase):
    def test_commands_in_all_other_pages_are_understood(self):
        """In pages that tell of other hosts, each command line is taken apart without an error about its arguments."""
        pages = [path for path in DOCS.glob("*.md") if path not in PAGES and not path.name.startswith("rules-")]
        lines = {
            (page.name, line)
            for page in [*pages, REPOSITORY / "README.md"]
            for text in [page.read_text("utf-8").replace("\\\n", " ")]
            for line in [
                *re.findall(r"^(?:    |\$ )\s*(swift-sprout [a-z].*?)(?:  #.*)?$", text, re.MULTILINE),
                *re.findall(r"`(swift-sprout [a-z][^`]*)`", text),
            ]
        }
        self.assertGreater(len(lines), 12)
        for name, line in sorted(lines):
            try:
                words = shlex.split(line)[1:]
            except ValueError:
                self.fail(f"{name}: {line}")
            if words[0] in ("serve", "demo", "COMMAND") or "--watch" in words or "…" in line:
                continue
            with self.subTest(f"{name}: {line}"):
                place = [] if "--host" in words else ["--host", str(self.site)]
                ran = sprout(*words[: words.index(">")] if ">" in words else words, *place, "-q", cwd=self.folder)
                self.assertNotIn("[arguments]", ran.err)
                self.assertNotIn("Traceback", ran.err)

    def test_pages_that_are_made_from_the_program_are_current(self):
        sys.path.insert(0, str(REPOSITORY))
        from swift_sprout.cli.describing import described
        from tools.reference import MANUAL, REFERENCE, manual, reference

        known = described()
        self.assertEqual(REFERENCE.read_text("utf-8"), reference(known), "run: python tools/reference.py")
        self.assertEqual(MANUAL.read_text("utf-8"), manual(known), "run: python tools/reference.py")

    def test_links_lead_somewhere(self):
        for page in [*DOCS.rglob("*.md"), REPOSITORY / "README.md"]:
            for target in re.findall(r"\]\(([^)#\s]+)\)", page.read_text("utf-8")):
                if "://" not in target:
                    self.assertTrue((page.parent / target).exists(), f"{page.name}: {target}")
