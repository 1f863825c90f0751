"""``show``, ``graph`` and ``remove`` on the berth register, made from the demo's brief."""

from __future__ import annotations

import json
from typing import Any
from xml.etree import ElementTree

from ..support import BRIEFS, SiteCase, host_python, tree_of


class RegisterCase(SiteCase):
    def setUp(self) -> None:
        super().setUp()
        self.plain = tree_of(self.site)
        self.assert_ok(self.sprout("new", "--brief", str(BRIEFS / "berth_register.toml")))
        self.assert_ok(self.sprout("enable", "berth_register"))

    def shown(self, what: str, *more: str) -> dict[str, Any]:
        return self.assert_ok(self.sprout("show", what, "berth_register", "--format", "json", *more)).json

    def rows(self, what: str, *more: str) -> list[dict[str, str]]:
        rows: list[dict[str, str]] = self.shown(what, *more)["rows"]
        return rows


class Show(RegisterCase):
    def test_names_tell_where_each_spelling_is_used(self):
        rows = {row["spelling"]: row for row in self.rows("names")[:9]}
        self.assertEqual(rows["snake"]["name"], "berth_register")
        self.assertIn("apps.py:", rows["snake"]["stands in"])
        self.assertEqual(rows["kebab"]["stands in"], "–")

    def test_routes_tell_controller_template_and_who_is_let_in(self):
        rows = {row["address"]: row for row in self.rows("routes")}
        self.assertEqual(rows["/bookings/"]["controller"], "BookingsList")
        self.assertEqual(rows["/bookings/"]["template"], "berth_register/bookings_list.html")
        self.assertEqual(rows["/bookings/"]["open to"], "holders of view_booking")
        self.assertEqual(rows["/berths/"]["open to"], "anyone")
        self.assertRegex(rows["/berths/"]["stands in"], r"^views.py:\d+$")

    def test_rights_are_closed_and_the_same_live_and_from_the_files(self):
        live, static = self.rows("rights"), self.rows("rights", "--static")
        self.assertEqual(live, static)
        rights = {}
        who = ""
        for row in live:
            who = row["who"] or who
            rights[who, row["record"]] = [row[verb] for verb in ("read", "create", "change", "delete")]
        self.assertEqual(rights["Harbour clerks", "Booking"], ["yes", "yes", "yes", "–"])
        self.assertEqual(rights["Harbour master", "Booking"], ["yes", "yes", "yes", "yes"])
        notes = self.shown("rights")["notes"]
        self.assertIn("no group may read Preferences", notes)
        self.assertIn("the group Harbour clerks: no members", notes)

    def test_rights_of_users_follow_from_their_groups(self):
        made = host_python(
            "manage.py",
            "shell",
            "-c",
            "from django.contrib.auth.models import *; a = User.objects.create_user('ada');"
            "a.groups.add(Group.objects.get(name='Harbour master'));"
            "b = User.objects.create_user('ben', is_active=False); b.groups.add(Group.objects.get(name='Harbour clerks'));"
            "User.objects.create_superuser('root')",
            cwd=self.site,
        )
        self.assertEqual(made.returncode, 0, made.stderr)
        rows = self.rows("rights")
        first = {row["who"]: index for index, row in enumerate(rows) if row["who"]}
        self.assertEqual(rows[first["ada"] + 1]["delete"], "yes")
        self.assertEqual(rows[first["ada"]]["also"], "close_a_berth")
        self.assertEqual(rows[first["ben"] + 1]["read"], "–")
        self.assertEqual(rows[first["root"] + 2]["change"], "yes")

    def test_order_placements_and_files(self):
        order = self.rows("order")
        self.assertEqual(order[-1]["module"], "berth_register")
        self.assertEqual([row["note"] for row in order if row["module"] == "harbour_office"], ["needed"])
        placed = {(row["sort"], row["name"]): row["state"] for row in self.rows("placements")}
        self.assertEqual(placed["placement", "Berths at a glance"], "stands there")
        files = {row["file"]: row for row in self.rows("files")}
        self.assertTrue(all(row["what it is for"] for row in files.values()), files)
        self.assertEqual(files["models.py"]["state"], "as it was made")
        self.change("berth_register/models.py", "class Berth(", "# mine\nclass Berth(")
        files = {row["file"]: row for row in self.rows("files")}
        self.assertEqual(files["models.py"]["state"], "changed since")
        self.assertIn(
            "a list", files["templates/berth_register/berths_list.html"]["what it is for"].replace("the list", "a list")
        )

    def test_modules_made_by_hand_have_tables_too(self):
        for what in ("names", "routes", "rights", "order", "placements", "files"):
            with self.subTest(what):
                ran = self.assert_ok(self.sprout("show", what, "ferries"))
                self.assertTrue(ran.out.strip())
        self.assertIn("rights", self.assert_ok(self.sprout("show", "rihgts", "ferries"), 2).err)
        self.assert_ok(self.sprout("show", "rights"), 2)


class Graph(RegisterCase):
    def test_the_graph_in_its_forms(self):
        ran = self.assert_ok(self.sprout("graph"))
        self.assertLess(ran.out.index("harbour_office"), ran.out.index("berth_register\n"))
        document = self.assert_ok(self.sprout("graph", "--format", "json")).json
        self.assertEqual(document["order"][-1], "berth_register")
        self.assertIn('"berth_register" -> "harbour_office"', self.sprout("graph", "--as", "dot").out)
        picture = self.folder / "modules.svg"
        self.assert_ok(self.sprout("graph", "--as", "svg", "--output", str(picture)))
        texts = [one.text for one in ElementTree.parse(picture).iter("{http://www.w3.org/2000/svg}text")]
        self.assertIn("Berth register", texts)
        self.assert_ok(self.sprout("graph", "--as", "svg", "--output", str(picture)), 4)
        self.assertNotIn("ferries", self.sprout("graph", "berth_register").out)

    def test_circles_and_missing_needs_are_findings(self):
        self.put("ferries/sprout.toml", '[module]\nname = "Ferries"\nneeds = ["berth_register", "lightship"]\n')
        self.change("berth_register/sprout.toml", 'needs = ["harbour_office"]', 'needs = ["ferries"]')
        ran = self.assert_ok(self.sprout("graph"), 1)
        self.assertIn("circle: berth_register → ferries → berth_register", ran.out)
        self.assertIn("missing", ran.out)
        document = self.assert_ok(self.sprout("graph", "--format", "json"), 1).json
        self.assertEqual(document["missing"], [["ferries", "lightship"]])
        ElementTree.fromstring(self.assert_ok(self.sprout("graph", "--as", "svg"), 1).out)


class Remove(RegisterCase):
    def test_rows_ask_for_a_word_and_are_named(self):
        self.assert_ok(self.sprout("settle", "berth_register", "--samples"))
        before = tree_of(self.site)
        ran = self.assert_ok(self.sprout("remove", "berth_register"), 4)
        self.assertIn("keeps 5 rows", ran.err)
        self.assertIn("berth_register_berth", ran.err)
        self.assertEqual(tree_of(self.site), before)
        ran = self.assert_ok(self.sprout("remove", "berth_register", "--preview", "--format", "json"))
        self.assertIn({"table": "berth_register_booking", "rows": 2}, ran.json["tables"])
        self.assertEqual(tree_of(self.site), before)

    def test_keeping_the_data_takes_files_and_entries_out_and_undo_brings_them_back(self):
        self.assert_ok(self.sprout("settle", "berth_register", "--samples"))
        before = tree_of(self.site)
        self.assert_ok(self.sprout("remove", "berth_register", "--data", "keep"))
        self.assertFalse((self.site / "berth_register").exists())
        after = {path: content for path, content in tree_of(self.site).items() if not path.endswith(".sqlite3")}
        self.assertEqual(
            after, {path: content for path, content in self.plain.items() if not path.endswith(".sqlite3")}
        )
        self.assert_ok(self.sprout("check"))
        self.assert_ok(self.sprout("undo"))
        self.assertEqual(tree_of(self.site), before)
        checked = self.assert_ok(self.sprout("check", "berth_register", "--format", "json"))
        self.assertEqual(checked.json["summary"]["served"], 1)
        self.assertIn("5 there already", self.sprout("settle", "berth_register", "--samples").out)

    def test_dropping_the_data_keeps_the_rows_in_a_file(self):
        self.assert_ok(self.sprout("settle", "berth_register", "--samples"))
        ran = self.assert_ok(self.sprout("remove", "berth_register", "--data", "drop"))
        rows = self.kept_rows()[0]
        self.assertIn(rows.name, ran.out)
        self.assertEqual(rows.stat().st_mode & 0o777, 0o600)
        self.assertEqual(
            len([one for one in json.loads(rows.read_text()) if one["model"] == "berth_register.berth"]), 3
        )
        told = host_python("manage.py", "inspectdb", cwd=self.site).stdout
        self.assertNotIn("berth_register", told)
        self.assert_ok(self.sprout("check"))
        self.assert_ok(self.sprout("undo"))
        self.assert_ok(self.sprout("settle"))
        loaded = host_python("manage.py", "loaddata", str(rows), cwd=self.site)
        self.assertEqual(loaded.returncode, 0, loaded.stderr)
        self.assertIn("5 there already", self.sprout("settle", "berth_register", "--samples").out)

    def test_a_module_that_others_need_and_one_made_by_hand(self):
        ran = self.assert_ok(self.sprout("remove", "harbour_office", "--data", "keep"), 4)
        self.assertIn("needed by berth_register", ran.err)
        self.assert_ok(self.sprout("remove", "ferries", "--data", "keep"))
        self.assertFalse((self.site / "ferries").exists())
        self.assert_ok(self.sprout("undo"))
        self.assert_ok(self.sprout("check", "ferries"))
