"""The Flask kit, written by the contract of kits alone: the story on a real application."""

import json
import os
import sqlite3
import subprocess
import tempfile
from contextlib import closing
from pathlib import Path
from unittest import mock

from swift_sprout.actions.hosting import HostChoice, open_host
from swift_sprout.actions.removing import remove
from swift_sprout.core.errors import HostFailed, Refused
from swift_sprout.disk.journal import Journal
from trials.places import RUNTIMES

from ...support import BRIEFS, SiteCase, sprout, tree_of

FLASK = RUNTIMES["flask"]


class FlaskCase(SiteCase):
    kit = "flask"
    without_runtime = ("new", "add", "refresh", "adopt")


class Story(FlaskCase):
    def test_from_brief_to_served_page_and_back(self):
        before = tree_of(self.site)
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "tide_board.toml"))
        failing = self.assert_ok(self.sprout("check", "tide_board", "--format", "json"), 1)
        self.assertEqual(self.codes(failing, "tide_board")[0], "registered.not-registered")
        self.assert_ok(self.sprout("enable", "tide_board"))
        passing = self.assert_ok(self.sprout("check", "--format", "json"))
        self.assertEqual(passing.json["summary"]["served"], 3)
        self.assertEqual(passing.json["summary"]["findings"], 0)
        words: list[str | Path] = [FLASK, "-m", "unittest", "discover", "-s", "tide_board/tests", "-t", "."]
        tests = subprocess.run(words, cwd=self.site, capture_output=True, text=True, timeout=60)
        self.assertEqual(tests.returncode, 0, tests.stderr)
        added = self.assert_ok(
            self.sprout("add", "command", "List tides: Prints the tides, lists Tide", "--to", "tide_board")
        )
        self.assertIn("commands.py", added.out)
        ran = subprocess.run(
            [FLASK, "-m", "flask", "--app", "wsgi", "tide_board", "list-tides"],
            cwd=self.site,
            capture_output=True,
            text=True,
        )
        self.assertEqual((ran.returncode, ran.stdout), (0, ""), ran.stderr)
        for _ in range(3):
            self.assert_ok(self.sprout("undo"))
        after = tree_of(self.site)
        after.pop("brindle_quay.sqlite3")
        self.assertEqual(after, before)

    def test_the_other_commands(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "tide_board.toml"))
        self.assert_ok(self.sprout("enable", "tide_board", "--at", "/harbour"))
        self.assertIn('url_prefix="/harbour"', (self.site / "harbour/__init__.py").read_text())
        self.assertIn("/harbour/tides", self.assert_ok(self.sprout("show", "routes", "tide_board")).out)
        self.assertIn("3.1", self.assert_ok(self.sprout("survey")).out)
        self.assertIn("harbour_office", self.assert_ok(self.sprout("graph")).out)
        self.assertIn("served", self.assert_ok(self.sprout("why", "tide_board")).out)
        self.assert_ok(self.sprout("disable", "tide_board"))
        self.assertNotIn("tide_board", (self.site / "harbour/__init__.py").read_text())
        before = tree_of(self.site)
        sandbox = self.assert_ok(self.sprout("check", "tide_board", "--sandbox", "--format", "json"), 1)
        self.assertEqual(sandbox.json["setups"][1]["modules"][0]["ladder"][-1]["state"], "pass")
        self.assertEqual(tree_of(self.site), before)
        self.assert_ok(self.sprout("remove", "tide_board", "--data", "keep"))
        self.assertFalse((self.site / "tide_board").exists())

    def test_what_it_cannot_carry_is_refused_with_the_nearest(self):
        before = tree_of(self.site)
        for words, said in (
            (("new", "--brief", BRIEFS / "berth_register.toml"), "Flask has no users"),
            (("new", "Board", "--page", "/board: Board, access staff"), "before_request"),
            (("new", "Board", "--record", "Log: data json"), "carry no field of type json"),
            (("new", "flask", "--page", "/x"), "Flask uses it itself"),
        ):
            with self.subTest(words):
                self.assertIn(said, self.assert_ok(self.sprout(*words), 2).err)
                self.assertEqual(tree_of(self.site), before)

    def test_in_a_factory_with_two_returns_a_module_goes_beside_the_others(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "tide_board.toml"))
        self.change(
            "harbour/__init__.py",
            "    app = Flask(__name__)\n",
            "    app = Flask(__name__)\n    if app.testing:\n        return app\n",
        )
        before = tree_of(self.site)
        self.assert_ok(self.sprout("enable", "tide_board"))
        text = (self.site / "harbour/__init__.py").read_text()
        self.assertLess(text.index("register_blueprint(ferries"), text.index("register_blueprint(tide_board)"))
        self.assert_ok(self.sprout("disable", "tide_board"))
        self.assertEqual(tree_of(self.site), {**tree_of(self.site), **before})


class Demo(FlaskCase):
    def test_the_demo_tells_what_this_host_has_not(self):
        with tempfile.TemporaryDirectory() as folder:
            ran = sprout("demo", os.path.join(folder, "quay"), "--kit", "flask", "--runtime", FLASK)
            self.assert_ok(ran)
            self.assertIn("part-not-carried", ran.err + ran.out)
            self.assertIn("3 modules, 3 served", ran.out)


PLAIN = "    from tide_board import blueprint\n    app.register_blueprint(blueprint)\n"
SHAPES = {
    "plain": (PLAIN, "", ""),
    "separators above": (PLAIN, 'NOTE = "tide\u2028board"  # \u2029 \x0c\n', ""),
    "several lines": ("    from tide_board import blueprint\n    app.register_blueprint(\n        blueprint,  # ours\n    )\n", "", ""),
    "one line for both": ("    from tide_board import blueprint; app.register_blueprint(blueprint)\n", "", ""),
    "a helper": ("    register(app)\n", "", "def register(app):\n    from tide_board import blueprint\n\n    app.register_blueprint(blueprint)\n\n\n"),
    "a loop": ("    import importlib\n    for name in ('tide_board',):\n        app.register_blueprint(importlib.import_module(name).blueprint)\n", "", ""),
    "registered twice": (PLAIN + "    app.register_blueprint(blueprint, name='again', url_prefix='/again')\n", "", ""),
}  # fmt: skip


class Factories(FlaskCase):
    """Factories as people write them: a module is taken out for good, or nothing is changed."""

    def shape(self, register: str, head: str = "", helper: str = "") -> None:
        self.put(
            "harbour/__init__.py",
            f"{head}from flask import Flask\n\n\n{helper}def create_app():\n    app = Flask(__name__)\n{register}    return app\n",
        )
        package = self.site / "tide_board"
        package.mkdir(exist_ok=True)
        (package / "__init__.py").write_text(
            "from flask import Blueprint\n\nblueprint = Blueprint('tide_board', __name__)\n\n\n"
            "@blueprint.get('/tides')\ndef tides():\n    return 'high water'\n"
        )
        (self.site / "wsgi.py").write_text("from harbour import create_app\n\napp = create_app()\n")

    def blueprints(self) -> str:
        code = "from wsgi import app; print(sorted(app.blueprints))"
        ran = subprocess.run([FLASK, "-c", code], cwd=self.site, capture_output=True, text=True, timeout=60)
        self.assertEqual(ran.returncode, 0, ran.stderr)
        return ran.stdout

    def test_every_shape_is_taken_out_or_left_alone(self):
        done = set()
        for name, (register, head, helper) in SHAPES.items():
            with self.subTest(name):
                self.shape(register, head, helper)
                self.assertIn("tide_board", self.blueprints())
                before = tree_of(self.site)
                ran = self.sprout("disable", "tide_board")
                self.assertNotIn("Traceback", ran.err)
                if ran.status == 0:
                    done.add(name)
                    self.assertEqual(self.blueprints(), "[]\n")
                    self.assert_ok(self.sprout("undo"))
                else:
                    self.assertEqual(ran.status, 4, ran.err)
                self.assertEqual(tree_of(self.site), before)
        self.assertLessEqual({"plain", "separators above", "several lines", "registered twice"}, done)

    def test_what_is_put_in_stands_before_the_return_whatever_stands_above(self):
        self.shape("", 'NOTE = "tide\u2028board"  # \u2029 \x0c\n')
        self.assert_ok(self.sprout("enable", "tide_board"))
        self.assertEqual(self.blueprints(), "['tide_board']\n")
        self.assert_ok(self.sprout("disable", "tide_board"))
        self.assertEqual(self.blueprints(), "[]\n")


MOORINGS = """\
PRAGMA foreign_keys = ON;
CREATE TABLE moorings (
    number INTEGER PRIMARY KEY,
    chart BLOB, depth REAL
);
CREATE TABLE "Mooring log" (at TEXT, mooring INTEGER REFERENCES moorings(number));
CREATE INDEX by_time ON "Mooring log" (at);
"""


class Dropping(FlaskCase):
    """A module by hand, whose tables the application's own code made."""

    def setUp(self) -> None:
        super().setUp()
        self.put("moorings/schema.sql", MOORINGS)
        self.put(
            "moorings/__init__.py",
            "from flask import Blueprint\n\nblueprint = Blueprint('moorings', __name__)\n\n\n"
            "@blueprint.get('/moorings/')\ndef index():\n    return 'Moorings of Brindle Quay'\n",
        )
        self.assert_ok(self.sprout("enable", "moorings"))
        with closing(sqlite3.connect(self.database)) as connection, connection:
            connection.executescript(MOORINGS)
            connection.executemany("INSERT INTO moorings VALUES (?, ?, ?)", [(7, b"\x00\xff", 4.5), (8, None, None)])
            connection.execute("INSERT INTO \"Mooring log\" VALUES ('2031-04-01', 7)")

    @property
    def database(self) -> Path:
        return self.site / "brindle_quay.sqlite3"

    def dumped(self) -> list[str]:
        with closing(sqlite3.connect(self.database)) as connection:
            return list(connection.iterdump())

    def test_without_a_word_rows_are_counted_and_nothing_is_removed(self):
        before, rows = tree_of(self.site), self.dumped()
        ran = self.assert_ok(self.sprout("remove", "moorings"), 4)
        self.assertIn("keeps 3 rows", ran.err)
        self.assertEqual((tree_of(self.site), self.dumped()), (before, rows))
        self.assert_ok(self.sprout("remove", "moorings", "--data", "keep"))
        self.assertEqual(self.dumped(), rows)

    def test_dropped_rows_are_kept_in_a_file(self):
        self.assert_ok(self.sprout("remove", "moorings", "--data", "drop"))
        self.assertFalse([line for line in self.dumped() if "ooring" in line])
        held = json.loads(self.kept_rows()[0].read_text())
        self.assertEqual(held["rows"]["moorings"]["rows"], [[7, {"hex": "00ff"}, 4.5], [8, None, None]])
        self.assertEqual(len(held["statements"]), 3)
        self.assertFalse((self.site / "moorings").exists())

    def test_a_table_of_others_that_points_at_it_keeps_it(self):
        with closing(sqlite3.connect(self.database)) as connection, connection:
            connection.execute("CREATE TABLE fees (mooring INTEGER REFERENCES Moorings(number))")
        before, rows = tree_of(self.site), self.dumped()
        ran = self.assert_ok(self.sprout("remove", "moorings", "--data", "drop"), 4)
        self.assertIn("fees", ran.err)
        self.assertEqual((tree_of(self.site), self.dumped()), (before, rows))

    def test_a_failure_after_the_drop_puts_tables_and_rows_back(self):
        rows, calls = self.dumped(), []

        def failing(journal, changes, real=Journal.apply):
            calls.append(changes)
            if len(calls) == 2:
                raise Refused("cannot-write", "The disk went away.", "Bring it back.")
            return real(journal, changes)

        opened = open_host(HostChoice(str(self.site), "flask", str(FLASK), writes=True))
        with mock.patch.object(Journal, "apply", failing), self.assertRaises(HostFailed) as caught:
            remove(opened, "moorings", "drop", False)
        self.assertIn("Tables and rows were put back", caught.exception.sentence)
        self.assertEqual(self.dumped(), rows)
        self.assert_ok(self.sprout("check", "moorings"))

    def test_an_application_that_names_its_database_in_another_way_is_no_proof_of_no_rows(self):
        self.change("harbour/__init__.py", 'app.config["DATABASE"]', 'app.config["QUAY_FILE"]')
        before, rows = tree_of(self.site), self.dumped()
        for words, status in (((), 4), (("--data", "drop"), 3)):
            ran = self.assert_ok(self.sprout("remove", "moorings", *words), status)
            self.assertIn("names no SQLite file", " ".join(ran.err.split()))
            self.assertEqual((tree_of(self.site), self.dumped()), (before, rows))
        ran = self.assert_ok(self.sprout("remove", "moorings", "--data", "keep"))
        self.assertIn("its tables were not looked at", ran.out)
        self.assertEqual(self.dumped(), rows)

    def test_what_cannot_be_told_is_no_reason_to_go_on(self):
        for place, text in (
            ("moorings/schema.sql", "CREATE TABEL moorings (number)"),
            ("moorings/schema.sql", "ATTACH 'outside.sqlite3' AS outside; CREATE TABLE outside.x (y);"),
            ("harbour/__init__.py", "raise RuntimeError('no harbour')\n"),
        ):
            with self.subTest(text):
                before = self.put(place, text) and tree_of(self.site)
                self.assertNotEqual(self.sprout("remove", "moorings").status, 0)
                self.assertNotEqual(self.sprout("remove", "moorings", "--data", "drop").status, 0)
                self.assertEqual(tree_of(self.site), before)
