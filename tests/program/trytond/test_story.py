"""The whole story on a real trytond: made, not found, enabled, served, added to, switched off, removed, undone."""

import json
import sqlite3
import urllib.error
import urllib.request

from trials.hosts import copy_host
from trials.places import RUNTIMES

from ...support import BRIEFS, TRYTOND, Case, PlatformCase, built_demo, can_be_interrupted, sprout, tree_of

DATABASE = "data/brindle_quay.sqlite"


class Story(PlatformCase):
    def state(self, module: str) -> str:
        connection = sqlite3.connect(self.site / DATABASE)
        found = connection.execute("select state from ir_module where name = ?", (module,)).fetchone()
        connection.close()
        return str(found[0]) if found else ""

    def tree(self) -> dict[str, bytes]:
        return {path: content for path, content in tree_of(self.site).items() if not path.startswith("data/")}

    def test_from_brief_to_served_page_and_back(self):
        before = self.tree()
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "tide_board.toml"))
        failing = self.assert_ok(self.sprout("check", "tide_board", "--format", "json"), 1)
        self.assertEqual(self.codes(failing, "tide_board")[0], "found.no-entry-point")
        planned = self.assert_ok(self.sprout("enable", "tide_board", "--preview"))
        self.assertIn("would activate tide_board in database brindle_quay", planned.out)
        self.assertEqual(self.state("tide_board"), "")
        self.assert_ok(self.sprout("enable", "tide_board"))
        self.assertEqual(self.state("tide_board"), "activated")
        self.assertIn("would deactivate", self.assert_ok(self.sprout("disable", "tide_board", "--preview")).out)
        self.assertEqual(self.state("tide_board"), "activated")
        passing = self.assert_ok(self.sprout("check", "--format", "json"))
        self.assertEqual(set(self.ladder(passing, "tide_board").values()), {"pass"})
        self.assertEqual(passing.json["summary"]["served"], 3)
        self.assertEqual(passing.json["summary"]["findings"], 0)
        preview = self.assert_ok(self.sprout("undo", "--preview"))
        self.assertIn("tide_board would be switched off", preview.out)
        self.assertEqual(self.state("tide_board"), "activated")
        self.assert_ok(self.sprout("undo"))
        self.assertEqual(self.state("tide_board"), "not activated")
        self.assert_ok(self.sprout("undo"))
        self.assertEqual(self.tree(), before)
        self.assert_ok(self.sprout("check"))

    def test_the_brief_with_every_part_is_made_enabled_checked_and_tested(self):
        brief = BRIEFS / "berth_register.toml"
        self.assert_ok(self.sprout("new", "--brief", brief))
        self.assert_ok(self.sprout("enable", "berth_register"))
        checked = self.assert_ok(self.sprout("check", "--format", "json"))
        self.assertEqual(set(self.ladder(checked, "berth_register").values()), {"pass"})
        self.assertEqual(checked.json["summary"]["findings"], 0, checked.out)
        settled = self.assert_ok(self.sprout("settle", "berth_register", "--samples"))
        self.assertIn("5 new rows", settled.out)
        self.assertIn("0 new rows", self.assert_ok(self.sprout("settle", "berth_register", "--samples")).out)
        rights = self.assert_ok(self.sprout("show", "rights", "berth_register", "--format", "json")).json
        rows = {(row["who"], row["record"]): row for row in rights["rows"] if row["who"]}
        self.assertEqual(rows["Harbour clerks", "berth"]["read"], "yes")
        self.assertEqual(rows["Harbour clerks", "berth"]["create"], "–")
        for what in ("routes", "order", "placements", "files"):
            self.assertGreater(
                len(self.assert_ok(self.sprout("show", what, "berth_register", "--format", "json")).json["rows"]), 3
            )
        placed = self.assert_ok(self.sprout("show", "placements", "berth_register", "--format", "json")).json["rows"]
        opened = {row["name"]: (row["under"], row["opens"], row["seen by"]) for row in placed}
        self.assertEqual(
            opened["Who comes when"], ("Harbour berths", "page /bookings", "Harbour clerks, Harbour master")
        )
        self.assertEqual(opened["Berths"], ("Berth register", "berth", "Harbour clerks, Harbour master"))
        addresses = self.assert_ok(self.sprout("show", "routes", "berth_register", "--format", "json")).json["rows"]
        self.assertIn(("/bookings", "holders of booking read"), {(row["address"], row["open to"]) for row in addresses})
        added = self.assert_ok(
            self.sprout("add", "record", "Anchorage: name text(40), depth_m decimal(4,1)", "--to", "berth_register")
        )
        self.assertIn("anchorage.xml", added.out)
        self.assertNotIn("de.mo", added.out)
        behind = self.sprout("check", "berth_register", "--format", "json")
        self.assertIn("installed.data-behind", self.codes(behind, "berth_register"))
        self.assert_ok(self.sprout("settle", "berth_register"))
        self.assert_ok(self.sprout("check", "berth_register"))
        tests = self.own_tests("berth_register")
        self.assertEqual(tests.returncode, 0, tests.stderr[-3000:])

    def test_why_names_every_condition(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "berth_register.toml"))
        self.assert_ok(self.sprout("enable", "berth_register"))
        for words, seen, said in (
            (("/berths",), True, "anybody may open it"),
            (("/bookings",), False, "holders of berth_register.booking read"),
            (("/bookings", "--as", "administrator"), True, "administrators may do everything"),
            (("Who comes when",), False, "Harbour clerks"),
            (("Who comes when", "--as", "administrator"), True, "Harbour clerks"),
            (("booking", "--as", "signed in"), False, "may read berth_register.booking"),
            (("list_berths",), False, "switched off"),
        ):
            with self.subTest(words):
                ran = self.assert_ok(self.sprout("why", "berth_register", *words, "--format", "json"), 0 if seen else 1)
                self.assertEqual(ran.json["seen"], seen)
                self.assertIn(said, ran.out)
        once = self.sprout("why", "berth_register", "booking").out
        self.assertIn("put the user into the group Harbour clerks or Harbour master", " ".join(once.split()))
        self.assertIn("admin", self.assert_ok(self.sprout("why", "berth_register", "--as", "admn"), 2).err)

    def test_what_is_needed_is_not_switched_off_and_a_removed_module_comes_back(self):
        refused = self.assert_ok(self.sprout("disable", "harbour_office"), 4)
        self.assertIn("ferries needs it", refused.err)
        self.assertEqual(self.state("harbour_office"), "activated")
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "tide_board.toml"))
        self.assert_ok(self.sprout("enable", "tide_board"))
        disabled = self.assert_ok(self.sprout("disable", "tide_board"))
        self.assertIn("table tide_board_tide stays, with 0 rows", disabled.out)
        self.assertEqual(self.state("tide_board"), "not activated")
        self.assertEqual(
            self.codes(self.sprout("check", "tide_board", "--format", "json"), "tide_board"), ["enabled.off"]
        )
        self.assert_ok(self.sprout("enable", "tide_board"))
        here = self.tree()
        self.assert_ok(self.sprout("remove", "tide_board", "--data", "drop"))
        self.assertFalse((self.site / "modules/tide_board").exists())
        self.assertFalse((self.site / "modules/tide_board-0.1.0.dist-info").exists())
        self.assert_ok(self.sprout("check"))
        self.assert_ok(self.sprout("undo"))
        self.assertEqual(self.tree(), here)
        self.assertEqual(self.state("tide_board"), "activated")
        self.assert_ok(self.sprout("check"))

    def test_a_module_that_cannot_be_activated_is_taken_back(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "tide_board.toml"))
        self.change("modules/tide_board/tide.xml", 'ref="act_tide"', 'ref="act_tides"')
        before = self.tree()
        ran = self.sprout("enable", "tide_board")
        self.assertNotEqual(ran.status, 0)
        self.assertIn("were taken back", ran.err)
        self.assertEqual(self.tree(), before)
        self.assertEqual(self.state("ferries"), "activated")
        self.assert_ok(self.sprout("check", "ferries"))

    def test_the_sandbox_enables_a_copy_only(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "tide_board.toml"))
        before = tree_of(self.site)
        ran = self.assert_ok(self.sprout("check", "tide_board", "--sandbox", "--format", "json"), 1)
        real, sandbox = ran.json["setups"]
        self.assertEqual(real["modules"][0]["ladder"][0]["state"], "fail")
        self.assertEqual({step["state"] for step in sandbox["modules"][0]["ladder"]}, {"pass"})
        self.assertEqual(tree_of(self.site), before)

    def test_serve_answers_on_loopback_and_leaves_nothing(self):
        import os
        import signal
        import subprocess
        import sys

        words = ["serve", "--host", str(self.site), "--runtime", str(TRYTOND), "--format", "json"]
        running = subprocess.Popen(
            [sys.executable, "-m", "swift_sprout", *words], stdout=-1, text=True, preexec_fn=can_be_interrupted
        )
        self.addCleanup(running.kill)
        assert running.stdout is not None
        text = ""
        while not text.rstrip().endswith("\n}"):
            text += running.stdout.readline()
        told = json.loads(text)
        base = f"http://127.0.0.1:{told['port']}"
        with urllib.request.urlopen(f"{base}/brindle_quay/r/ferries/timetable", timeout=20) as answer:
            self.assertIn(b"Ferry timetable", answer.read())
        os.kill(running.pid, signal.SIGINT)
        running.wait(20)
        with self.assertRaises(urllib.error.URLError):
            urllib.request.urlopen(base, timeout=2)

    def test_an_address_of_ones_own_is_refused_with_the_reason(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "tide_board.toml"))
        ran = self.assert_ok(self.sprout("enable", "tide_board", "--at", "/tides"), 2)
        self.assertIn("/DATABASE/r/ROUTER", ran.err)


class SeveralHosts(PlatformCase):
    def test_two_hosts_are_checked_and_stand_on_one_page(self):
        other, flask = self.folder / "site", RUNTIMES["flask"]
        copy_host("flask", built_demo("flask"), other)
        page = self.folder / "hosts.html"
        ran = self.assert_ok(self.sprout("check", "ferries", "--also", f"{other},{flask}", "--output", page))
        self.assertIn("trytond 8.2", ran.out)
        self.assertIn("Flask 3.1", ran.out)
        text = page.read_text("utf-8")
        self.assertIn("Check of trytond, Flask modules", text)
        self.assertIn(f"Flask: {other}", text)
        (other / "ferries/__init__.py").write_text("blueprint = None\n")
        failing = self.assert_ok(self.sprout("check", "ferries", "--also", f"{other},{flask}", "--output", page), 1)
        self.assertIn("described.no-blueprint", failing.out)
        for words in (("--format", "json"), ("--sandbox",), ("--output", self.folder / "all.json")):
            refused = self.assert_ok(self.sprout("check", "--also", other, *words), 2)
            self.assertIn("--also", refused.out + refused.err)


class ByHand(PlatformCase):
    """Modules that people wrote, and files that they edited since."""

    def test_a_module_made_by_hand_is_adopted_and_added_to(self):
        adopted = self.assert_ok(self.sprout("adopt", "ferries"))
        self.assertIn("sailing", adopted.out)
        self.assertIn("the route 'timetable' is not read into a page", adopted.out)
        self.assertIn("leaves_at: time", (self.site / "modules/ferries/sprout.toml").read_text())
        routes = (self.site / "modules/ferries/routes.py").read_bytes()
        self.assert_ok(self.sprout("add", "record", "Landing: name text(40), unique", "--to", "ferries"))
        manifest = (self.site / "modules/ferries/tryton.cfg").read_text()
        self.assertIn("    sailing.xml\n    landing.xml\n", manifest)
        self.assertIn("    sailing.Sailing\n    landing.Landing\n", manifest)
        self.assertIn('parent="menu_ferries"', (self.site / "modules/ferries/landing.xml").read_text())
        self.assertEqual((self.site / "modules/ferries/routes.py").read_bytes(), routes)
        self.assert_ok(self.sprout("settle", "ferries"))
        checked = self.assert_ok(self.sprout("check", "ferries", "--format", "json"))
        self.assertEqual(self.codes(checked, "ferries"), [])
        while self.sprout("undo").status == 0:
            pass
        self.assertNotIn("landing", (self.site / "modules/ferries/tryton.cfg").read_text())

    def test_a_changed_brief_is_brought_in_without_losing_what_people_wrote(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "tide_board.toml"))
        self.change("modules/tide_board/tryton.cfg", "    tide.xml\n", "    tide.xml\n    own.xml\n")
        self.put("modules/tide_board/own.xml", '<tryton><data><menuitem id="own" name="Own"/></data></tryton>\n')
        self.change(
            "modules/tide_board/sprout.toml",
            '"station: text(80)",',
            '"station: text(80)",\n    "draught_m: decimal(4,1), optional",',
        )
        with (self.site / "modules/tide_board/sprout.toml").open("a") as brief:
            brief.write('\n[[group]]\nname = "Tide watchers"\nmay = { Tide = "read create" }\n')
        ran = self.assert_ok(self.sprout("refresh", "tide_board"))
        self.assertIn("groups.xml", ran.out)
        manifest = (self.site / "modules/tide_board/tryton.cfg").read_text()
        self.assertIn("own.xml", manifest)
        self.assertIn("groups.xml", manifest)
        self.assert_ok(self.sprout("enable", "tide_board"))
        checked = self.sprout("check", "tide_board", "--format", "json")
        self.assertEqual(set(self.ladder(checked, "tide_board").values()), {"pass"}, checked.out)


class BadInput(PlatformCase):
    def test_a_database_that_is_none(self):
        (self.site / DATABASE).write_bytes(b"no database at all" * 100)
        ran = self.sprout("check", "ferries")
        self.assertEqual(ran.status, 3)
        self.assertNotIn("Traceback", ran.out + ran.err)
        self.assertIn("cannot be read", ran.out)
        survey = self.assert_ok(self.sprout("survey"), 1)
        self.assertIn("is no database of the host", survey.out)

    def test_no_database_and_no_host(self):
        (self.site / DATABASE).unlink()
        survey = self.assert_ok(self.sprout("survey"), 1)
        self.assertIn("there is no database in data", survey.out)
        self.assert_ok(self.sprout("enable", "ferries"), 3)
        self.change("trytond.conf", "uri = sqlite://", "uri = postgresql://")
        self.assertIn("is none that is worked on here", self.assert_ok(self.sprout("survey"), 1).out)

    def test_a_configuration_that_cannot_be_read(self):
        (self.site / "trytond.conf").write_text("[database]\nuri = sqlite://\n]broken\n")
        ran = self.assert_ok(self.sprout("survey"), 1)
        self.assertIn("trytond.conf:3", ran.out)


class WhatAHostHasNot(PlatformCase):
    """Parts that trytond cannot carry are refused, and the nearest thing it has is named."""

    def test_refusals_name_the_nearest(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "tide_board.toml"))
        for kind, line, said in (
            ("record", "Log: data json", "long text"),
            ("listener", "Count pages, on request finished", "Known here"),
            ("command", 'Print one: Prints one, positional "number: integer"', "default"),
            ("placement", "Tide block, place footer.html", "front page"),
        ):
            with self.subTest(kind):
                if kind == "placement":
                    self.assert_ok(self.sprout("add", "block", "Tide block, shows Tide", "--to", "tide_board"))
                before = tree_of(self.site)
                ran = self.sprout("add", kind, line, "--to", "tide_board")
                self.assertEqual(ran.status, 2, ran.out + ran.err)
                self.assertIn(said, ran.err)
                self.assertEqual(tree_of(self.site), before)


class Recognising(Case):
    def test_kits_tell_what_each_part_becomes(self):
        ran = self.assert_ok(sprout("kits", "--format", "json"))
        kits = {kit["kit"]: kit for kit in ran.json["kits"]}
        self.assertEqual(set(kits) & {"django", "trytond"}, {"django", "trytond"})
        self.assertIn("scheduled job", kits["trytond"]["parts"]["command"])
