"""Set-ups, reports, why, watching: the rest of what check and its companions do, on the real host."""

import json
import os
import shutil
import subprocess
import sys
import time
from typing import Any
from xml.etree import ElementTree

import jsonschema

from swift_sprout.actions.showing import TABLES
from swift_sprout.hosts.registry import kits
from swift_sprout.reports.widths import width
from trials.places import PROGRAM

from ..support import (
    BRIEFS,
    DJANGO,
    REPOSITORY,
    SiteCase,
    brief_of,
    host_python,
    scratch_folders,
    sprout,
    tree_of,
)

SCHEMAS = REPOSITORY / "src/swift_sprout/reports/schemas"
TIDE_BOARD = BRIEFS / "tide_board.toml"
REGISTER = BRIEFS / "berth_register.toml"


class WithTideBoard(SiteCase):
    def setUp(self) -> None:
        super().setUp()
        self.assert_ok(self.sprout("new", "--brief", TIDE_BOARD))


class Sandboxes(WithTideBoard):
    def test_well_in_the_sandbox_off_in_the_real_site(self):
        before, left = tree_of(self.site), scratch_folders()
        ran = self.assert_ok(self.sprout("check", "--sandbox", "--format", "json"), 1)
        real, sandbox = ran.json["setups"]
        self.assertEqual((real["setup"], sandbox["setup"]), ("real", "sandbox"))
        states = {
            setup["setup"]: {step["rung"]: step["state"] for step in module["ladder"]}
            for setup in (real, sandbox)
            for module in setup["modules"]
            if module["module"] == "tide_board"
        }
        self.assertEqual(states["real"]["registered"], "fail")
        self.assertEqual(states["sandbox"]["served"], "pass")
        self.assertEqual(tree_of(self.site), before)
        self.assertEqual(scratch_folders(), left)
        text = self.assert_ok(self.sprout("check", "tide_board", "--sandbox", "-q"), 1).out
        self.assertRegex(text, r"tide_board  real .*stops at registered\n +sandbox .*served: /tides/")

    def test_keep_keeps_it_and_interrupting_removes_it(self):
        left = scratch_folders()
        ran = self.sprout("check", "--sandbox", "--keep")
        kept = (scratch_folders() - left).pop()
        self.assertIn(str(kept), "".join(ran.out.split()))
        shutil.rmtree(kept)
        words = ["check", "--sandbox", "--host", str(self.site), "--runtime", str(DJANGO)]
        command = [sys.executable, "-m", "swift_sprout", *words]
        for seconds in (0.8, 1.6):
            process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
            time.sleep(seconds)
            process.terminate()
            self.assertIn(process.wait(20), (130, 1, -15))  # the last before it was ready to be asked
            self.assertEqual(scratch_folders(), left)

    def test_a_database_outside_the_host_is_never_written(self):
        outside = self.folder / "outside.sqlite3"
        (self.site / "brindle_quay.sqlite3").rename(outside)
        self.change("brindle_quay/settings.py", 'BASE_DIR / "brindle_quay.sqlite3"', repr(str(outside)))
        before = outside.read_bytes()
        self.assert_ok(self.sprout("check", "tide_board", "--sandbox"), 1)
        self.assertEqual(outside.read_bytes(), before)


class Databases(WithTideBoard):
    def test_a_database_that_is_not_there(self):
        (self.site / "brindle_quay.sqlite3").unlink()
        ran = self.assert_ok(self.sprout("check", "ferries", "--format", "json"), 1)
        self.assertEqual(self.codes(ran, "ferries")[0], "installed.database-absent")
        self.assertFalse((self.site / "brindle_quay.sqlite3").exists())
        self.assertIn("is not there yet", " ".join(self.assert_ok(self.sprout("survey"), 1).out.split()))
        self.assert_ok(self.sprout("settle"))
        self.assert_ok(self.sprout("check", "ferries"))

    def test_a_database_that_is_locked_is_read_all_the_same_or_said_to_be(self):
        import sqlite3

        holder = sqlite3.connect(self.site / "brindle_quay.sqlite3", isolation_level=None)
        holder.execute("BEGIN EXCLUSIVE")
        self.addCleanup(holder.close)
        ran = self.assert_ok(self.sprout("check", "ferries"), 3)
        self.assertIn("locked", ran.out)


class Why(WithTideBoard):
    def make_user(self, name: str, permission: str) -> None:
        code = (
            "from django.contrib.auth.models import User, Group, Permission\n"
            f"user = User.objects.create(username={name!r})\n"
            "group = Group.objects.create(name='Harbour clerks')\n"
            "user.groups.add(group)\n"
            f"group.permissions.add(*Permission.objects.filter(codename={permission!r}))\n"
        )
        done = host_python("manage.py", "shell", "-c", code, cwd=self.site)
        self.assertEqual(done.returncode, 0, done.stderr)

    def test_a_page_that_is_not_there_and_what_would_bring_it(self):
        ran = self.assert_ok(self.sprout("why", "tide_board", "/tides", "--format", "json"), 1)
        self.assertFalse(ran.json["seen"])
        self.assertIn("swift-sprout enable tide_board", ran.json["commands"])
        self.assert_ok(self.sprout("enable", "tide_board"))
        ran = self.assert_ok(self.sprout("why", "tide_board", "/tides"))
        self.assertIn("seen? yes", ran.out)
        self.assertIn("200: the page", ran.out)

    def test_rights_of_people(self):
        mixin = "from django.contrib.auth.mixins import PermissionRequiredMixin\nfrom django.views"
        self.change("tide_board/views.py", "from django.views", mixin)
        guarded = 'TidesList(PermissionRequiredMixin, ListView):\n    permission_required = "tide_board.view_tide"'
        self.change("tide_board/views.py", "TidesList(ListView):", guarded)
        self.assert_ok(self.sprout("enable", "tide_board"))
        self.make_user("mara", "view_tide")
        ran = self.assert_ok(self.sprout("why", "tide_board", "/tides"), 1)
        self.assertIn("302: sent on to /sign-in/", ran.out)
        self.assertIn("sign in as somebody who holds tide_board.view_tide", ran.out)
        ran = self.assert_ok(self.sprout("why", "tide_board", "/tides", "--as", "mara"))
        self.assertIn("Harbour clerks", ran.out)
        ran = self.assert_ok(self.sprout("why", "tide_board", "Tide", "--as", "mara"), 1)
        self.assertIn("mark mara as staff", ran.out)
        self.assert_ok(self.sprout("why", "tide_board", "Tide", "--as", "administrator"))
        ran = self.assert_ok(self.sprout("why", "tide_board", "--as", "marra"), 2)
        self.assertIn("Nearest known: mara", ran.err)
        ran = self.assert_ok(self.sprout("check", "tide_board", "--format", "json"))
        self.assertEqual(self.ladder(ran, "tide_board")["permitted"], "pass")

    def test_commands_and_blocks_and_unknown_things(self):
        self.put(
            "ferries/management/commands/list_sailings.py",
            "from django.core.management.base import BaseCommand\n\n\nclass Command(BaseCommand):\n"
            "    def handle(self, *args, **options):\n        pass\n",
        )
        self.put(
            "ferries/templatetags/ferry_blocks.py",
            "from django import template\n\nregister = template.Library()\n\n\n"
            "@register.inclusion_tag('ferries/next.html')\ndef next_ferry():\n    return {}\n",
        )
        self.put("ferries/templates/ferries/next.html", "<p>Next ferry: soon</p>\n")
        self.assert_ok(self.sprout("why", "ferries", "list_sailings"))
        ran = self.assert_ok(self.sprout("why", "ferries", "next_ferry"), 1)
        self.assertIn("{% load ferry_blocks %}", ran.out)
        self.change("templates/base.html", "<!doctype html>", "{% load ferry_blocks %}<!doctype html>")
        self.change("templates/base.html", "<main>", "<main>{% next_ferry %}")
        self.assert_ok(self.sprout("why", "ferries", "next_ferry"))
        ran = self.assert_ok(self.sprout("why", "ferries", "/feries"), 2)
        self.assertIn("Nearest known: /ferries/", ran.err)


class Reports(WithTideBoard):
    def schema(self, name: str) -> Any:
        return json.loads((SCHEMAS / f"{name}.json").read_text("utf-8"))

    def test_documents_fit_their_schemas(self):
        for words, name, status in (
            (("check",), "check", 1),
            (("check", "--static"), "check", 1),
            (("survey",), "survey", 0),
            (("kits",), "kits", 0),
            (("why", "tide_board", "/tides"), "why", 1),
            (("new", "Signal mast", "--preview"), "new", 0),
            (("enable", "tide_board", "--preview"), "enable", 0),
            (("check", "nothing"), "error", 2),
            (("show", "rules"), "rules", 0),
            *((("show", what, "tide_board"), "show", 0) for what in TABLES),
            (("graph",), "graph", 0),
            (("add", "page", "/wind: Wind", "--to", "tide_board", "--preview"), "add", 0),
            (("refresh", "tide_board"), "refresh", 0),
            (("adopt", "ferries", "--preview"), "adopt", 0),
            (("remove", "tide_board", "--preview"), "remove", 0),
            (("settle",), "settle", 0),
            (("content", "take", "harbour_office", "--preview"), "content-take", 0),
            (("new", "--brief", TIDE_BOARD, "--brief", REGISTER, "--preview"), "new-all", 4),
        ):
            with self.subTest(words):
                run = sprout if words[:2] in (("kits",), ("show", "rules")) else self.sprout
                ran = self.assert_ok(run(*words, "--format", "json"), status)
                jsonschema.validate(ran.json, self.schema("error" if status == 4 else name))

    def test_the_schema_of_a_brief_is_that_of_the_kinds_and_takes_the_demo(self):
        import tomllib

        from tools.brief_schema import schema

        self.assertEqual((SCHEMAS / "brief.json").read_text("utf-8"), schema())
        for brief in (TIDE_BOARD, REGISTER, brief_of("wagtail", "tide_pages"), brief_of("oscar", "chandlery_offers")):
            jsonschema.validate(tomllib.loads(brief.read_text("utf-8")), self.schema("brief"))

    def test_files_by_their_ending(self):
        paths = {ending: self.folder / f"check.{ending}" for ending in ("json", "xml", "sarif", "html", "txt")}
        outputs = [word for path in paths.values() for word in ("--output", str(path))]
        self.assert_ok(self.sprout("check", *outputs), 1)
        self.assert_ok(self.sprout("check", *outputs), 1)
        jsonschema.validate(json.loads(paths["json"].read_text()), self.schema("check"))
        published = json.loads((REPOSITORY / "tests/data/sarif-2.1.0.json").read_text("utf-8"))
        sarif = json.loads(paths["sarif"].read_text())
        jsonschema.validate(sarif, published)
        self.assertEqual(sarif["runs"][0]["results"][0]["ruleId"], "registered.not-listed")
        suites = ElementTree.parse(paths["xml"]).getroot()
        failed = suites.findall(".//testcase[@name='registered']/failure")
        self.assertEqual(len(failed), 1)
        self.assertIn("swift-sprout enable tide_board", failed[0].text or "")
        page = paths["html"].read_text("utf-8")
        self.assertNotRegex(page, r"(src|href)=[\"']https?:")
        self.assertIn("tide_board is not in INSTALLED_APPS", page)
        self.assertIn(
            "stops at registered", paths["txt"].read_text("utf-8").replace("✗ registered", "stops at registered")
        )

    def test_a_file_that_is_no_report_is_not_overwritten(self):
        mine = self.write("mine.json", '{"berths": 12}\n')
        ran = self.assert_ok(self.sprout("check", "ferries", "--output", mine), 4)
        self.assertIn("output-taken", ran.err)
        self.assertEqual(mine.read_text(), '{"berths": 12}\n')
        self.assertIn("output-ending", self.assert_ok(self.sprout("check", "--output", "x.pdf"), 2).err)

    def test_text_is_plain_in_a_pipe_and_fits_eighty_columns(self):
        ran = self.sprout("check", COLUMNS="80")
        self.assertNotIn("\x1b", ran.out)
        lines = [line for line in ran.out.splitlines() if str(PROGRAM) not in line]  # a command is never broken
        self.assertLessEqual(max(map(width, lines)), 80 + len(str(self.site)))
        plain = self.sprout("check", PYTHONIOENCODING="ascii")
        self.assertTrue(plain.out.isascii())

    def test_the_page_in_a_browser(self):
        from shutil import which

        browser = which("chromium")
        if browser is None:
            self.skipTest("chromium is not installed")
        page = self.folder / "check.html"
        self.sprout("check", "--output", page)
        command = [browser, "--headless", "--no-sandbox", "--disable-gpu", "--disable-background-networking"]
        ended = subprocess.run(
            [*command, f"--user-data-dir={self.folder / 'browser'}", "--dump-dom", page.as_uri()],
            capture_output=True,
            text=True,
            timeout=120,
        )
        self.assertIn("tide_board is not in INSTALLED_APPS", ended.stdout)
        self.assertIn('aria-label="registered: fail"', ended.stdout)


class Rules(SiteCase):
    def test_rules_are_listed_and_explained(self):
        ran = self.assert_ok(sprout("show", "rules"))
        self.assertIn("registered.not-listed  error  (django, oscar, wagtail; check MODULE --mend does it)", ran.out)
        ran = self.assert_ok(sprout("show", "rules", "routed.*"))
        self.assertIn("effect", ran.out)
        self.assertIn("rule-unknown", self.assert_ok(sprout("show", "rules", "routed.nothing"), 2).err)

    def test_the_pages_of_rules_in_the_docs_are_up_to_date(self):
        from tools.rules_page import page

        for kit in kits().values():
            self.assertEqual((REPOSITORY / f"docs/rules-{kit.data.id}.md").read_text("utf-8"), page(kit.data))


class Watching(SiteCase):
    def test_a_saved_file_is_checked_within_a_second(self):
        words = ["check", "ferries", "--static", "--watch", "--host", str(self.site)]
        command = [sys.executable, "-m", "swift_sprout", *words]
        environment = {**os.environ, "PYTHONUNBUFFERED": "1"}
        process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=environment)
        assert process.stdout is not None
        self.addCleanup(process.stdout.close)
        self.addCleanup(process.wait)
        self.addCleanup(process.kill)
        while "1 module" not in process.stdout.readline():
            pass
        self.change("ferries/views.py", "class Timetable(ListView):", "class Timetable(ListView)")
        began = time.monotonic()
        lines = ""
        while "enabled.source-broken" not in lines:
            lines += process.stdout.readline()
        self.assertLess(time.monotonic() - began, 3)  # a loaded machine; the aim is one second
        self.assertIn("ferries/views.py was saved", lines)
