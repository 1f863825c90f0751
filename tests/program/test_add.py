"""``add``: one more part in a module that is there, and what people wrote in it stays."""

from __future__ import annotations

import ast
import codecs
import os
import shutil
import tomllib
import unittest
from pathlib import Path

from swift_sprout.core.parts.kinds import KINDS
from swift_sprout.hosts.registry import kit_named

from ..support import Ran, SiteCase, host_python, tree_of

FIRST = "Berth: number text(12), unique, length_m decimal(5,1)"
#  every kind of part, in an order in which each finds what it rests on
PARTS = [
    ("record", "Booking: berth -> Berth (bookings), vessel text(60), arrives date, default today"),
    ("permission", "Close a berth, on Berth"),
    ("group", "Harbour clerks, may read create change Booking, may read Berth"),
    ("group", "Harbour master, may delete Booking, also Close a berth, includes Harbour clerks"),
    ("page", "/bookings: Bookings, shows Booking, access may read Booking"),
    ("page", "/bookings/new: Book a berth, shows Booking, view form"),
    ("page", "/bookings/{booking: integer}/change: Change it, shows Booking, view form"),
    ("page", "/quays/{quay}: One quay, methods get post, also /kays/{quay}"),
    ("page", "/closing: Closing, access may Close a berth"),
    ("endpoint", "/api/berths: Berths, shows Berth"),
    ("endpoint", "/api/bookings: Bookings, shows Booking, access signed in, methods get post put delete"),
    ("menu", "Harbour, page /berths"),
    ("menu", "Who comes, page /bookings, parent Harbour, position 5"),
    ("menu", "For clerks, page /bookings, side administration"),
    ("block", "Free berths, shows Berth, limit 3"),
    ("block", "Welcome: Come in and moor"),
    ("placement", "Free berths, pages /"),
    ("placement", "Welcome, side administration"),
    (
        "command",
        'List berths: Prints "all" berths, lists Berth, positional "number: text(12), optional", named "limit: integer, default 5"',
    ),
    ("command", 'Count days, named "day: date", named "loud: yes/no"'),
    ("setting", 'season_open: yes/no, default yes, label "Berths can be booked", help "Not in winter"'),
    ("setting", "longest_stay: integer, default 14"),
    ("service", "Berth finder: Finds a berth, uses Berth, uses clock, uses log, uses settings, uses mail"),
    ("service", "Booker, uses Booking, uses Berth finder"),
    ("listener", "Note a booking, on record saved, of Booking"),
    ("listener", "Greet, on signed in"),
    ("sample", 'Berth, rows "number=A1; length_m=4.5", rows "number=A2; length_m=9"'),
    ("sample", 'Booking, by vessel, rows "vessel=Gannet; berth=A1"'),
    ("translation", "de, texts Berth=Liegeplatz, texts Berths=Liegeplätze"),
    ("asset", "berths.css"),
    ("asset", "berths.js"),
    ("asset", "anchor.svg"),
]


class FirstRecord(SiteCase):
    def test_a_module_without_records_gets_its_first(self):
        self.assert_ok(self.sprout("new", "Beacon north"))
        self.assert_ok(self.sprout("enable", "beacon_north"))
        self.assert_ok(self.sprout("add", "record", "Lamp: colour text(20)", "--to", "beacon_north"))
        self.assertTrue((self.site / "beacon_north/migrations/__init__.py").exists())
        self.assert_ok(self.sprout("settle", "beacon_north"))
        self.assert_ok(self.sprout("check", "beacon_north"))


class AddCase(SiteCase):
    """A test on the site with a small berth register that is switched on."""

    def setUp(self) -> None:
        super().setUp()
        self.assert_ok(self.sprout("new", "Berth register", "--record", FIRST))

    def add(self, kind: str, line: str, *more: str, status: int = 0) -> Ran:
        return self.assert_ok(self.sprout("add", kind, line, "--to", "berth_register", *more), status)

    def read(self, path: str) -> str:
        return (self.site / "berth_register" / path).read_text("utf-8")


class EveryPart(AddCase):
    def test_every_kind_is_added_to_a_live_module_and_served(self):
        self.assert_ok(self.sprout("enable", "berth_register"))
        for kind, line in PARTS:
            with self.subTest(line):
                self.add(kind, line)
        self.assertEqual({kind for kind, _ in PARTS}, set(KINDS) & set(kit_named("django").data.parts))
        self.assert_ok(self.sprout("settle", "--samples"))
        checked = self.assert_ok(self.sprout("check", "--format", "json"))
        self.assertEqual(checked.json["summary"], {**checked.json["summary"], "modules": 3, "served": 3, "findings": 0})
        self.assertEqual(self.ladder(checked, "berth_register")["placed"], "pass")
        ran = host_python("manage.py", "test", "berth_register", cwd=self.site)
        self.assertEqual(ran.returncode, 0, ran.stderr)
        self.assertIn("Ran 42 tests", ran.stderr)
        again = tree_of(self.site / "berth_register")
        for kind, line in PARTS:
            self.assertIn("already", self.add(kind, line).out)
        self.assertEqual(tree_of(self.site / "berth_register"), again)
        self.assertIn("as its brief says", self.assert_ok(self.sprout("refresh", "berth_register")).out)

    def test_each_is_taken_back_byte_for_byte(self):
        self.assert_ok(self.sprout("enable", "berth_register"))
        for kind, line in PARTS[:6] + PARTS[9:17]:
            before = tree_of(self.site)
            self.add(kind, line)
            with self.subTest(line):
                after = tree_of(self.site)
                self.assertNotEqual(after, before)
                self.assert_ok(self.sprout("undo"))
                self.assertEqual(tree_of(self.site), before)
                self.add(kind, line)
                self.assertEqual(tree_of(self.site), after)

    def test_preview_writes_nothing_and_shows_all(self):
        before = tree_of(self.site)
        ran = self.add("record", PARTS[0][1], "--preview")
        self.assertEqual(tree_of(self.site), before)
        self.assertIn("+class Booking(models.Model):", ran.out)
        ran = self.add("record", PARTS[0][1], "--preview", "--format", "json")
        self.assertFalse(ran.json["written"])
        self.assertIn("berth_register/migrations/0002_booking.py", [one["path"] for one in ran.json["files"]])

    def test_the_order_of_adding_does_not_matter(self):
        chosen = [PARTS[0], PARTS[9], PARTS[14], PARTS[20], PARTS[24], PARTS[29]]
        for kind, line in chosen:
            self.add(kind, line)
        one = facts(self.site / "berth_register")
        for _ in chosen:
            self.assert_ok(self.sprout("undo"))
        for kind, line in [chosen[0], *reversed(chosen[1:])]:
            self.add(kind, line)
        self.assertEqual(facts(self.site / "berth_register"), one)


def facts(folder: Path) -> tuple[dict[str, object], dict[str, set[str]]]:
    """Return what a module is, whatever the order of its parts: those of the brief, and the definitions of its code."""
    data = tomllib.loads((folder / "sprout.toml").read_text("utf-8"))
    brief = {kind: sorted(map(repr, held)) if isinstance(held, list) else held for kind, held in data.items()}
    code = {
        path.relative_to(folder).as_posix(): {ast.unparse(node) for node in ast.parse(path.read_text()).body}
        for path in sorted(folder.rglob("*.py"))
        if "migrations" not in path.parts
    }
    urls = ast.parse((folder / "urls.py").read_text()).body[-1]
    assert isinstance(urls, ast.Assign) and isinstance(urls.value, ast.List)
    code["urls.py"] = {ast.unparse(route) for route in urls.value.elts}
    return brief, code


class HandsOn(AddCase):
    """What people wrote stays."""

    def test_hand_written_code_comments_and_layout_stay(self):
        models = self.site / "berth_register/models.py"
        text = models.read_text().replace(
            "class Meta:", "def free(self):\n        return True  # for now\n\n    class Meta:"
        )
        text = (
            "# kept by the harbour office\n"
            + text.replace("max_length=12", "max_length = 12")
            + "\n\ndef tide():\n    return 3\n"
        )
        models.write_text(text)
        brief = self.site / "berth_register/sprout.toml"
        brief.write_text(brief.read_text().replace("[[page]]", "# what visitors see\n[[page]]") + "\n# the end\n")
        self.add(*PARTS[0])
        now = models.read_text()
        for line in text.splitlines():
            self.assertIn(line, now)
        self.assertIn("class Booking(models.Model):", now)
        self.assertIn("# what visitors see\n[[page]]", brief.read_text())
        self.assertTrue(brief.read_text().rstrip().endswith("# the end"))
        self.assertEqual(now.count("class Berth("), 1)

    def test_windows_line_ends_marks_and_tabs(self):
        for name in ("models.py", "admin.py", "tests/samples.py"):
            path = self.site / "berth_register" / name
            path.write_bytes(codecs.BOM_UTF8 + path.read_bytes().replace(b"\n", b"\r\n").replace(b"    ", b"\t"))
        self.add(*PARTS[0])
        for name in ("models.py", "admin.py", "tests/samples.py"):
            content = (self.site / "berth_register" / name).read_bytes()
            self.assertTrue(content.startswith(codecs.BOM_UTF8))
            self.assertNotIn(b"\n", content.replace(b"\r\n", b""))
            ast.parse(content)
        self.assert_ok(self.sprout("enable", "berth_register"))
        self.assert_ok(self.sprout("check", "berth_register"))

    def test_latin_1_stays_latin_1(self):
        path = self.site / "berth_register/models.py"
        path.write_bytes(b"# -*- coding: latin-1 -*-\n# H\xf6he \xfcber Null\n" + path.read_bytes())
        self.add(*PARTS[0])
        self.assertTrue(path.read_bytes().startswith(b"# -*- coding: latin-1 -*-\n# H\xf6he"))
        before = tree_of(self.site)
        ran = self.add("record", 'Buoy: name text(4), help "浮标"', status=4)
        self.assertIn("latin-1", ran.err)
        self.assertEqual(tree_of(self.site), before)

    def test_a_file_that_does_not_parse_is_left_alone(self):
        path = self.site / "berth_register/models.py"
        path.write_text(path.read_text() + "\n\ndef broken(:\n")
        lines = len(path.read_text().splitlines())
        before = tree_of(self.site)
        ran = self.add(*PARTS[0], status=4)
        self.assertIn(f"berth_register/models.py:{lines}", ran.err)
        self.assertEqual(tree_of(self.site), before)
        brief = self.site / "berth_register/sprout.toml"
        brief.write_text(brief.read_text() + "oops\n")
        self.assertIn("sprout.toml:", self.add(*PARTS[9], status=2).err)

    def test_a_class_written_by_hand_is_not_touched(self):
        path = self.site / "berth_register/models.py"
        path.write_text(path.read_text() + "\n\nclass Booking(models.Model):\n    mine = models.TextField()\n")
        before = tree_of(self.site)
        ran = self.add(*PARTS[0], status=4)
        self.assertIn("Booking stands there already", ran.err)
        self.assertEqual(tree_of(self.site), before)

    def test_a_link_out_of_the_host_and_a_file_without_right_are_refused(self):
        path = self.site / "berth_register/admin.py"
        outside = self.folder / "admin.py"
        shutil.move(path, outside)
        path.symlink_to(outside)
        before = outside.read_bytes()
        self.assertIn("leads out of the host", self.add(*PARTS[0], status=4).err)
        self.assertEqual(outside.read_bytes(), before)

    @unittest.skipIf(os.geteuid() == 0, "the superuser may write everywhere")
    def test_a_folder_without_right(self):
        folder = self.site / "berth_register"
        folder.chmod(0o500)
        self.addCleanup(folder.chmod, 0o700)
        self.add(*PARTS[0], status=4)

    def test_a_file_that_is_marked_read_only_is_refused(self):
        path = self.site / "berth_register/admin.py"
        path.chmod(0o444)
        before = tree_of(self.site)
        ran = self.add(*PARTS[0], status=4)
        self.assertIn("berth_register/admin.py is marked read-only", " ".join(ran.err.split()))
        self.assertNotIn("interrupted", ran.err)  # nothing was begun
        self.assertEqual(tree_of(self.site), before)
        path.chmod(0o640)
        self.add(*PARTS[0])
        self.assertEqual(path.stat().st_mode & 0o777, 0o640)

    def test_a_file_that_was_taken_away_stays_away(self):
        (self.site / "berth_register/tests/test_berth_register.py").unlink()
        ran = self.add(*PARTS[0])
        self.assertIn("was taken away by hand, and stays away", ran.out)
        self.assertFalse((self.site / "berth_register/tests/test_berth_register.py").exists())

    def test_a_brief_that_was_changed_since_is_still_due(self):
        brief = self.site / "berth_register/sprout.toml"
        brief.write_text(
            brief.read_text().replace('"length_m: decimal(5,1)"', '"length_m: decimal(5,1)", "quay: text(9)"')
        )
        self.add(*PARTS[0])
        self.assertNotIn("quay", self.read("models.py"))
        self.assert_ok(self.sprout("refresh", "berth_register"))
        self.assertIn("quay", self.read("models.py"))
        self.assertEqual(len(list((self.site / "berth_register/migrations").glob("00*.py"))), 3)


class OnForeignModules(SiteCase):
    """Modules that were made by hand, with and without a brief."""

    def test_parts_go_into_a_module_without_a_brief(self):
        for kind, line in (
            ("record", "Landing: name text(40)"),
            ("page", "/ferries/landings: Landings, shows Landing"),
            ("block", "Next boats, shows Sailing"),
            ("command", "List landings, lists Landing"),
            ("setting", "late_minutes: integer, default 5"),
        ):
            with self.subTest(line):
                ran = self.assert_ok(self.sprout("add", kind, line, "--to", "ferries"))
                self.assertIn("swift-sprout adopt ferries", ran.out)
        self.assertFalse((self.site / "ferries/sprout.toml").exists())
        self.assertIn("class Timetable(ListView):", (self.site / "ferries/views.py").read_text())
        self.assert_ok(self.sprout("settle"))
        self.change(
            "ferries/templates/ferries/timetable.html",
            "{% block content %}",
            "{% block content %}{% load ferries_blocks %}{% next_boats %}",
        )
        checked = self.assert_ok(self.sprout("check", "ferries", "--format", "json"))
        self.assertEqual(checked.json["summary"]["findings"], 0, checked.out)
        served = set(checked.json["setups"][0]["modules"][0]["addresses"])
        self.assertIn("/ferries/landings/", served)
        tested = host_python("manage.py", "test", "ferries", cwd=self.site)
        self.assertEqual(tested.returncode, 0, tested.stderr)

    def test_tests_by_hand_are_left_alone(self):
        self.put("ferries/tests.py", "# mine\n")
        ran = self.assert_ok(self.sprout("add", "record", "Landing: name text(40)", "--to", "ferries"))
        self.assertIn("the module has tests of its own", ran.out)
        self.assertFalse((self.site / "ferries/tests").exists())

    def test_bad_input_names_place_and_nearest(self):
        for words, wanted in (
            (("recrod", "A: b text"), "record"),
            (("record", "A"), "before a colon"),
            (("record", "A: b textt(3)"), "text"),
            (("record", "Berth: id text(3)"), "id_value"),
            (("page", "/: Again"), "answered already"),
            (("page", "/x, shows Saling"), "Sailing"),
            (("menu", "X, page /nowhere"), "/nowhere"),
            (("placement", "X"), "'X'"),
            (("listener", "X, on record savd, of Sailing"), "record saved"),
            (("page", "/{day: dat}/x"), "slug"),
        ):
            with self.subTest(words):
                ran = self.sprout("add", *words, "--to", "ferries")
                self.assertIn(ran.status, (2, 4), ran.out)
                self.assertIn(wanted, " ".join(ran.err.split()))
                self.assertIn("remedy:", ran.err)
        self.assertIn(
            "module-unknown", self.assert_ok(self.sprout("add", "record", "A: b text", "--to", "ferry"), 2).err
        )
        ran = self.assert_ok(self.sprout("add", "record"), 2)
        self.assertIn("--to MODULE", ran.err)

    def test_a_place_that_no_page_draws_is_refused_by_add_and_new_with_those_that_are(self):
        self.assert_ok(self.sprout("add", "block", "Next boats, shows Sailing", "--to", "ferries"))
        before = tree_of(self.site)
        self.put("templates/quay.html", '{% extends "base.html" %}\n{% block quay %}\n{% endblock %}\n')
        brief = self.put("bell.toml", '[module]\nname = "Fog Bell"\n\n[[block]]\nname = "Bell now"\ntext = "Ding"\n\n')
        brief.write_text(f'{brief.read_text()}[[placement]]\nblock = "Bell now"\nplace = "quay.html"\n')
        for words in (
            ("add", "placement", "Next boats, place quay.html", "--to", "ferries"),
            ("new", "--brief", brief),
        ):
            ran = self.assert_ok(self.sprout(*words), 4)
            self.assertIn("place-not-drawn", ran.err)
            self.assertIn("front page", ran.err)
        brief.write_text(brief.read_text().replace("quay.html", "sign-in.html"))
        ran = self.assert_ok(self.sprout("new", "--brief", brief), 2)
        self.assertIn("Nearest known: sign_in.html", " ".join(ran.err.split()))
        brief.unlink()
        (self.site / "templates/quay.html").unlink()
        self.assertEqual(tree_of(self.site), before)

    def test_a_place_that_is_not_there_names_the_nearest(self):
        self.assert_ok(self.sprout("add", "block", "Next boats, shows Sailing", "--to", "ferries"))
        ran = self.sprout("add", "placement", "Next boats, place harbour_office/frontpage.html", "--to", "ferries")
        self.assert_ok(ran, 2)
        self.assertIn("harbour_office/front_page.html", ran.err)
        ran = self.assert_ok(self.sprout("add", "placement", "Next boats", "--to", "ferries"))
        self.assertIn("front_page.html", ran.out)
        page = (self.site / "harbour_office/templates/harbour_office/front_page.html").read_text()
        self.assertIn("{% load ferries_blocks %}{% next_boats %}\n{% endblock %}", page)
        told = self.assert_ok(self.sprout("check", "ferries")).out
        self.assertIn("next_boats in harbour_office/front_page.html (drawn on /)", " ".join(told.split()))
        self.assert_ok(self.sprout("disable", "ferries"))
        after = (self.site / "harbour_office/templates/harbour_office/front_page.html").read_text()
        self.assertNotIn("next_boats", after)
