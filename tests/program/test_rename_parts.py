"""``rename`` of less than a module: a record with its rows and what people wrote of it, and the owner's part of a name."""

from __future__ import annotations

import sqlite3
from contextlib import closing

from trials.hosts import trial

from ..support import SiteCase, WordPressCase, host_python, tree_of

BY_HAND = '''"""What the harbour prints."""

from tide_board.models import Tide


def highest(person):
    """Return the station with the highest tide."""
    if not person.has_perm("tide_board.change_tide"):
        return None
    tide = Tide.objects.order_by("-station").first()
    return tide and tide.station
'''


class ARecordOnDjango(SiteCase):
    def setUp(self) -> None:
        super().setUp()
        page = "/tides: Tides today, shows Tide, access may change Tide"
        self.assert_ok(self.sprout("new", "Tide board", "--record", "Tide: station text(80)", "--page", page))
        self.assert_ok(self.sprout("enable", "tide_board"))

    def shell(self, code: str) -> str:
        ran = host_python("manage.py", "shell", "-c", code, cwd=self.site)
        self.assertEqual(ran.returncode, 0, ran.stderr)
        return ran.stdout.strip().splitlines()[-1]

    def test_rows_and_what_people_wrote_go_along(self) -> None:
        self.shell("from tide_board.models import Tide; Tide.objects.create(station='North pier'); print(1)")
        (self.site / "tide_board/reports.py").write_text(BY_HAND)
        (self.site / "harbour_office/board.py").write_text("from tide_board.models import Tide\n\nSHOWN = Tide\n")
        self.change("tide_board/views.py", "paginate_by = 50", "paginate_by = 12\n    context_object_name = 'tide'")
        before = tree_of(self.site)
        preview = self.assert_ok(self.sprout("rename", "tide_board", "High water", "--record", "tide", "--preview"))
        self.assertEqual(tree_of(self.site), before)
        self.assertIn("+class HighWater(models.Model):", preview.out)
        ran = self.assert_ok(self.sprout("rename", "tide_board", "High water", "--record", "Tide"))
        self.assertIn("the record Tide is High water now", " ".join(ran.out.split()))
        self.assertIn("2 texts of the brief may mean something else", " ".join(ran.out.split()))
        self.assertIn("reports.py holds the old name in 4 places", " ".join(ran.out.split()))
        by_hand = BY_HAND.replace("Tide", "HighWater").replace("change_tide", "change_highwater")
        self.assertEqual((self.site / "tide_board/reports.py").read_text(), by_hand)
        self.assertIn("import HighWater\n\nSHOWN = HighWater", (self.site / "harbour_office/board.py").read_text())
        self.assertIn("paginate_by = 12", (self.site / "tide_board/views.py").read_text())
        self.assert_ok(self.sprout("settle", "tide_board"))
        self.assertEqual(
            self.shell("from tide_board.models import HighWater; print(HighWater.objects.get().station)"), "North pier"
        )
        self.assert_ok(self.sprout("check"))
        self.assertEqual(host_python("manage.py", "test", "tide_board", cwd=self.site).returncode, 0)
        self.assertIn("nothing was changed", self.assert_ok(self.sprout("refresh", "tide_board")).out)

    def test_a_class_in_a_package_of_models_is_renamed_where_it_stands(self) -> None:
        models = self.site / "tide_board/models.py"
        text = models.read_text("utf-8")
        models.unlink()
        by_hand = "\n    def later(self):\n        return Tide.objects.filter(pk__gt=self.pk).first()\n"
        for path, held in (
            ("models/__init__.py", 'from .tide import Tide\n\n__all__ = ["Tide"]\n'),
            ("models/tide.py", text + by_hand),
        ):
            (self.site / "tide_board" / path).parent.mkdir(exist_ok=True)
            (self.site / "tide_board" / path).write_text(held, "utf-8")
        self.assert_ok(self.sprout("rename", "tide_board", "High water", "--record", "Tide"))
        self.assertEqual(
            (self.site / "tide_board/models/__init__.py").read_text("utf-8"),
            'from .tide import HighWater\n\n__all__ = ["HighWater"]\n',
        )
        self.assertIn("return HighWater.objects", (self.site / "tide_board/models/tide.py").read_text("utf-8"))
        self.assert_ok(self.sprout("settle", "tide_board"))
        self.assert_ok(self.sprout("check", "tide_board"))
        self.assertEqual(host_python("manage.py", "test", "tide_board", cwd=self.site).returncode, 0)

    def test_what_cannot_be_is_refused_and_nothing_written(self) -> None:
        before = tree_of(self.site)
        for words, code in (
            (("High water", "--record", "Tides"), "record-unknown"),
            (("Tide", "--record", "Tide"), "name-same"),
            (("潮", "--record", "Tide"), "name-not-latin"),
            (("--record", "Tide"), "name-missing"),
            (("High water", "--record", "Tide", "--internal", "water"), "internal-alone"),
            (("High water", "--owner", "harbour-office"), "one-at-a-time"),
            (("--owner", "7"), "owner-unusable"),
            (("--owner", "harbour-office"), "no-owner"),
        ):
            with self.subTest(words):
                ran = self.sprout("rename", "tide_board", *words)
                self.assertIn(f"[{code}]", " ".join(ran.err.split()))
                self.assertNotEqual(ran.status, 0)
        self.change("tide_board/sprout.toml", '"station: text(80)"', '"station: text(80)", "note: text(9), optional"')
        self.assertIn("brief-ahead", self.sprout("rename", "tide_board", "High water", "--record", "Tide").err)
        self.change("tide_board/sprout.toml", ', "note: text(9), optional"', "")
        self.assertEqual(tree_of(self.site), before)


class ARecordOnTrytond(SiteCase):
    kit = "trytond"

    def test_a_word_that_is_module_file_and_model_is_changed_where_it_is_the_module(self) -> None:
        for path, text in PILOT.items():
            place = self.site / "modules" / path
            place.parent.mkdir(parents=True, exist_ok=True)
            place.write_text(text)
        self.assert_ok(self.sprout("enable", "pilot"))
        self.assert_ok(self.sprout("enable", "tow"))
        database = next((self.site / "data").glob("*.sqlite"))
        with closing(sqlite3.connect(database)) as connection, connection:
            connection.execute("insert into pilot (name) values ('Ada')")
            connection.execute("insert into pilot_station (name) values ('North')")
        files = {path: held for path, held in tree_of(self.site).items() if path.startswith("modules/")}
        self.assert_ok(self.sprout("rename", "pilot", "Harbour guide"))
        self.assertIn("from . import pilot", (self.site / "modules/harbour_guide/__init__.py").read_text())
        self.assertIn("'harbour_guide.station'", (self.site / "modules/harbour_guide/pilot.py").read_text())
        self.assertIn("    harbour_guide\n", (self.site / "modules/tow/tryton.cfg").read_text())
        self.assertIn('parent="harbour_guide.menu_pilot"', (self.site / "modules/tow/tow.xml").read_text())
        with closing(sqlite3.connect(database)) as connection:
            rows = [
                connection.execute(f"select name from {one}").fetchall() for one in ("pilot", "harbour_guide_station")
            ]
        self.assertEqual(rows, [[("Ada",)], [("North",)]])
        checked = self.sprout("check", "harbour_guide", "tow").out
        self.assertIn("1 finding,", checked)  # the one that it had before
        self.assertIn("permitted.no-access", checked)
        self.assert_ok(self.sprout("rename", "harbour_guide", "Pilot"))
        now = {path: held for path, held in tree_of(self.site).items() if path.startswith("modules/")}
        self.assertEqual({path for path in {*files, *now} if files.get(path) != now.get(path)}, set())


class AnOwnerOnWordPress(WordPressCase):
    def setUp(self) -> None:
        super().setUp()
        self.addCleanup(trial(self.kit).stop, self.site)

    def test_namespace_and_brief_change_and_the_name_stays(self) -> None:
        module = self.site / "wp-content/plugins/tide-board"
        self.assert_ok(
            self.sprout(
                "new", "Tide board", "--owner", "Brindle Quay", "--record", "Tide: station text(80)",
                "--page", "/tides: Tides, shows Tide",
            )
        )  # fmt: skip
        self.assert_ok(self.sprout("enable", "tide-board"))
        (module / "src/Notes.php").write_text(
            "<?php\n\nnamespace BrindleQuay\\TideBoard;\n\n/** Notes of Brindle Quay. */\nfinal class Notes {}\n"
        )
        before = tree_of(module)
        ran = self.assert_ok(self.sprout("rename", "tide-board", "--owner", "Harbour office"))
        self.assertIn("Renamed brindle-quay/tide-board to harbour-office/tide-board", ran.out)
        held = b"".join(content for path, content in tree_of(module).items() if path != "sprout.made")
        self.assertNotIn(b"BrindleQuay", held)
        self.assertIn(b"Notes of Brindle Quay", held)
        self.assert_ok(self.sprout("check", "tide-board"))
        self.assertIn("nothing was changed", self.assert_ok(self.sprout("refresh", "tide-board")).out)
        self.assertIn("owner-same", self.sprout("rename", "tide-board", "--owner", "harbour_office").err)
        self.assert_ok(self.sprout("rename", "tide-board", "--owner", "Brindle Quay"))
        self.assertEqual(tree_of(module), before)

    def test_a_record_goes_with_its_rows_and_the_class_that_people_use(self) -> None:
        module = self.site / "wp-content/plugins/tide-board"
        self.assert_ok(
            self.sprout(
                "new", "Tide board", "--record", "Tide: station text(80)", "--page", "/tides: Tides, shows Tide"
            )
        )
        self.assert_ok(self.sprout("enable", "tide-board"))
        access = module / "src/Access.php"
        access.write_text(access.read_text() + "\nfunction first_one() {\n\treturn new Records\\Tide();\n}\n")
        self.assert_ok(self.sprout("rename", "tide-board", "High water", "--record", "Tide"))
        self.assertIn("return new Records\\HighWater();", access.read_text())
        self.assertTrue((module / "src/Records/HighWater.php").is_file())
        self.assertFalse((module / "src/Records/Tide.php").exists())
        self.assert_ok(self.sprout("check", "tide-board"))


_MODEL = """from trytond.model import ModelSQL, ModelView, fields


class {name}(ModelSQL, ModelView):
    "{name}"
    __name__ = '{model}'
    name = fields.Char("Name")
"""
#  a module, a file of it and a model of it with one name, and another module that needs it
PILOT = {
    "pilot/__init__.py": (
        "from trytond.pool import Pool\n\nfrom . import pilot\n\n\ndef register():\n"
        "    Pool.register(pilot.Pilot, pilot.Station, module='pilot', type_='model')\n"
    ),
    "pilot/pilot.py": _MODEL.format(name="Pilot", model="pilot")
    + "\n\n"
    + _MODEL.partition("\n\n\n")[2].format(name="Station", model="pilot.station")
    + "    pilot = fields.Many2One('pilot.station', \"Pilot\")\n"
    + "    near = fields.One2Many(\n        'pilot.station',\n        'pilot', 'Near')\n",
    "pilot/tryton.cfg": "[tryton]\nversion=8.2.0\ndepends:\n    ir\n    res\nxml:\n    pilot.xml\n",
    "pilot/pilot.xml": (
        '<?xml version="1.0"?>\n<tryton>\n    <data>\n'
        '        <menuitem name="Pilots" sequence="10" id="menu_pilot"/>\n    </data>\n</tryton>\n'
    ),
    "pilot-8.2.0.dist-info/entry_points.txt": "[trytond.modules]\npilot = pilot\n",
    "pilot-8.2.0.dist-info/METADATA": "Metadata-Version: 2.1\nName: pilot\nVersion: 8.2.0\n",
    "tow/__init__.py": "",
    "tow/tryton.cfg": "[tryton]\nversion=8.2.0\ndepends:\n    ir\n    pilot\nxml:\n    tow.xml\n",
    "tow/tow.xml": (
        '<?xml version="1.0"?>\n<tryton>\n    <data>\n'
        '        <menuitem name="Tows" parent="pilot.menu_pilot" sequence="10" id="menu_tow"/>\n    </data>\n</tryton>\n'
    ),
    "tow-8.2.0.dist-info/entry_points.txt": "[trytond.modules]\ntow = tow\n",
    "tow-8.2.0.dist-info/METADATA": "Metadata-Version: 2.1\nName: tow\nVersion: 8.2.0\n",
}
