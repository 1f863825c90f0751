"""``rename``: a module gets another name, its data goes with it, and no spelling of the old one is left."""

from __future__ import annotations

import json
import sqlite3
from contextlib import closing

import jsonschema

from trials.hosts import trial

from ..support import REPOSITORY, SiteCase, WordPressCase, host_python, tree_of

SCHEMA = REPOSITORY / "src/swift_sprout/reports/schemas/rename.json"
RECORD = "Berth: number text(12), unique, length_m decimal(5,1)"
FERRIES = {
    "tolls/__init__.py": "",
    "tolls/apps.py": (
        "from django.apps import AppConfig\n\n\n"
        "class TollsConfig(AppConfig):\n    name = 'tolls'\n    default_auto_field = 'django.db.models.BigAutoField'\n"
    ),
    "tolls/models.py": (
        "from django.db import models\n\n\n"
        "class TollsPaid(models.Model):\n    tolls = models.IntegerField(default=0)\n    ships = models.ManyToManyField('self')\n"
    ),
    "tolls/migrations/__init__.py": "",
    "tolls/migrations/0001_initial.py": (
        "from django.db import migrations, models\n\n\nclass Migration(migrations.Migration):\n    initial = True\n"
        "    dependencies = []\n    operations = [\n        migrations.CreateModel('TollsPaid', [\n"
        "            ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),\n"
        "            ('tolls', models.IntegerField(default=0)),\n            ('ships', models.ManyToManyField(to='tolls.tollspaid')),\n"
        "        ]),\n    ]\n"
    ),
    "tolls/views.py": (
        "from django.http import HttpResponse\n\nfrom tolls.models import TollsPaid\n\n\n"
        "def total(request):\n    tolls = sum(one.tolls for one in TollsPaid.objects.all())\n"
        "    return HttpResponse(f'tolls: {tolls}')\n"
    ),
    "tolls/urls.py": (
        "from django.urls import path\n\nfrom tolls import views\n\napp_name = 'tolls'\nurlpatterns = [path('', views.total, name='total')]\n"
    ),
}


class OfAMadeModule(SiteCase):
    def setUp(self) -> None:
        super().setUp()
        self.assert_ok(
            self.sprout("new", "Berth register", "--record", RECORD, "--page", "/berths: Berths, shows Berth")
        )
        self.assert_ok(self.sprout("enable", "berth_register"))

    def shell(self, code: str) -> str:
        ran = host_python("manage.py", "shell", "-c", code, cwd=self.site)
        self.assertEqual(ran.returncode, 0, ran.stderr)
        return ran.stdout.strip().splitlines()[-1]

    def test_rows_permissions_and_own_tests_go_with_it_and_back(self) -> None:
        files = tree_of(self.site)
        self.assert_ok(self.sprout("rename", "berth_register", "Mooring list", "--preview"))
        self.assertEqual(tree_of(self.site), files)
        self.shell("from berth_register.models import Berth; Berth.objects.create(number='B1', length_m=9); print(1)")
        rights = "from django.contrib.auth.models import Permission as P; print(*P.objects.filter(content_type__app_label='{}').values_list('pk', flat=True))"
        before = self.shell(rights.format("berth_register"))
        self.assertTrue(before)
        preview = self.assert_ok(self.sprout("rename", "berth_register", "Mooring list", "--preview"))
        self.assertIn("registration", preview.out)
        ran = self.assert_ok(self.sprout("rename", "berth_register", "Mooring list"))
        self.assertIn("the old name is nowhere left", " ".join(ran.out.split()))
        self.assertFalse((self.site / "berth_register").exists())
        held = [
            p for p, content in tree_of(self.site).items() if b"erth_register" in content or b"BerthRegister" in content
        ]
        self.assertTrue(all("/migrations/" in path for path in held if not path.endswith(".sqlite3")), held)
        self.assertEqual(self.shell("from mooring_list.models import Berth; print(Berth.objects.get().number)"), "B1")
        self.assertEqual(self.shell(rights.format("mooring_list")), before)
        self.assertFalse(self.shell(rights.format("berth_register")) == before)
        self.assert_ok(self.sprout("check"))
        self.assertEqual(host_python("manage.py", "test", "mooring_list", cwd=self.site).returncode, 0)
        self.assertEqual(host_python("manage.py", "makemigrations", "--check", cwd=self.site).returncode, 0)
        self.assertIn("nothing", self.assert_ok(self.sprout("refresh", "mooring_list")).out.lower())
        self.assert_ok(self.sprout("rename", "mooring_list", "Berth register"))
        after = tree_of(self.site)
        differ = {path for path in {*files, *after} if files.get(path) != after.get(path)}
        self.assertTrue(all("renamed_from" in path or path.endswith(".sqlite3") for path in differ), differ)
        self.assertEqual(self.shell("from berth_register.models import Berth; print(Berth.objects.get().number)"), "B1")

    def test_an_empty_database_gets_the_tables_under_the_new_name(self) -> None:
        self.assert_ok(self.sprout("rename", "berth_register", "Mooring list"))
        for database in self.site.glob("*.sqlite3"):
            database.unlink()
        self.assertEqual(host_python("manage.py", "migrate", cwd=self.site).returncode, 0)
        self.assertEqual(self.shell("from mooring_list.models import Berth; print(Berth.objects.count())"), "0")
        self.assertEqual(host_python("manage.py", "migrate", "mooring_list", "zero", cwd=self.site).returncode, 0)

    def test_the_document_holds_every_place(self) -> None:
        ran = self.assert_ok(self.sprout("rename", "berth_register", "Mooring list", "--preview", "--format", "json"))
        jsonschema.validate(ran.json, json.loads(SCHEMA.read_text("utf-8")))
        self.assertEqual(
            (ran.json["before"], ran.json["after"], ran.json["written"]), ("berth_register", "mooring_list", False)
        )
        self.assertIn("berth_register/models.py", ran.json["moves"])

    def test_names_that_cannot_be_and_files_in_the_way_change_nothing(self) -> None:
        for name in ("berth_register.md", "mooring_list.md"):
            (self.site / name).write_text("Mine.\n", "utf-8")
        files = tree_of(self.site)
        for name, code, status in (
            ("Ferries", "name-taken", 4),
            ("Migrations", "name-taken", 2),
            ("", "name-empty", 2),
            ("Mooring list", "in-the-way", 4),
        ):
            with self.subTest(name):
                self.assertIn(f"[{code}]", self.assert_ok(self.sprout("rename", "berth_register", name), status).err)
                self.assertEqual(tree_of(self.site), files)
        self.assertIn("berth_register", self.assert_ok(self.sprout("rename", "berth_registr", "Quay"), 2).err)

    def test_undo_takes_the_files_back_and_says_what_the_database_keeps(self) -> None:
        files = {path: content for path, content in tree_of(self.site).items() if not path.endswith(".sqlite3")}
        self.assert_ok(self.sprout("rename", "berth_register", "Mooring list"))
        undone = self.assert_ok(self.sprout("undo"))
        self.assertIn("rename mooring_list", " ".join(undone.out.split()))
        now = {path: content for path, content in tree_of(self.site).items() if not path.endswith(".sqlite3")}
        self.assertEqual(now, files)


class OfOneWordByHand(SiteCase):
    def setUp(self) -> None:
        super().setUp()
        for path, text in FERRIES.items():
            place = self.site / path
            place.parent.mkdir(parents=True, exist_ok=True)
            place.write_text(text, "utf-8")
        self.assert_ok(self.sprout("enable", "tolls", "--at", "tolls/"))
        (self.site / "NOTES.md").write_text("The tolls are high. See `tolls/models.py`.\n", "utf-8")

    def test_names_change_and_words_stay(self) -> None:
        make = "from tolls.models import TollsPaid as T; T.objects.create(tolls=3).ships.add(T.objects.create(tolls=4))"
        self.assertEqual(host_python("manage.py", "shell", "-c", make, cwd=self.site).returncode, 0)
        ran = self.assert_ok(self.sprout("rename", "tolls", "Harbour dues"))
        self.assertIn("may mean something else", ran.out)
        views = (self.site / "harbour_dues/views.py").read_text("utf-8")
        self.assertIn("from harbour_dues.models import TollsPaid", views)
        self.assertIn("tolls = sum(one.tolls for", views)
        self.assertIn("class HarbourDuesConfig", (self.site / "harbour_dues/apps.py").read_text("utf-8"))
        self.assertEqual(
            (self.site / "NOTES.md").read_text("utf-8"), "The tolls are high. See `harbour_dues/models.py`.\n"
        )
        ask = "from harbour_dues.models import TollsPaid as T; print(T.objects.get(tolls=3).ships.get().tolls)"
        self.assertIn("4", host_python("manage.py", "shell", "-c", ask, cwd=self.site).stdout)
        self.assert_ok(self.sprout("check", "harbour_dues"))

    def test_a_name_with_which_the_host_does_not_start_is_taken_back(self) -> None:
        settings = next(self.site.glob("*/settings.py"))
        settings.write_text(f"{settings.read_text('utf-8')}\n__import__('to' + 'lls.apps')\n", "utf-8")
        files = tree_of(self.site)
        refused = self.assert_ok(self.sprout("rename", "tolls", "Harbour dues"), 4)
        self.assertIn("[host-stops]", refused.err)
        self.assertEqual(tree_of(self.site), files)


class OfALabelOfItsOwn(SiteCase):
    def test_label_and_tables_stay_where_they_have_another_name(self) -> None:
        for path, text in FERRIES.items():
            place = self.site / path.replace("tolls/", "toll_house/")
            place.parent.mkdir(parents=True, exist_ok=True)
            text = text.replace("    name = 'tolls'\n", "    name = 'toll_house'\n    label = 'tolls'\n")
            text = text.replace("from tolls", "from toll_house")
            place.write_text(text, "utf-8")
        self.assert_ok(self.sprout("enable", "toll_house", "--at", "tolls/"))
        make = "from toll_house.models import TollsPaid as T; T.objects.create(tolls=3)"
        self.assertEqual(host_python("manage.py", "shell", "-c", make, cwd=self.site).returncode, 0)
        self.assert_ok(self.sprout("rename", "toll_house", "Harbour dues"))
        self.assertEqual(list(self.site.glob("harbour_dues/migrations/*renamed*")), [])
        ask = "from harbour_dues.models import TollsPaid as T; print(T._meta.db_table, T.objects.get().tolls)"
        self.assertIn("tolls_tollspaid 3", host_python("manage.py", "shell", "-c", ask, cwd=self.site).stdout)
        self.assert_ok(self.sprout("check", "harbour_dues"))


class OfIndexes(SiteCase):
    def test_indexes_that_the_host_has_named_get_the_name_that_it_would_give_them(self) -> None:
        self.assert_ok(
            self.sprout("new", "Berth register", "--record", RECORD, "--record", "Rope: berth -> Berth (ropes)")
        )
        models = self.site / "berth_register/models.py"
        text = models.read_text("utf-8")
        for record, fields in (("Berth", "['number', '-length_m']"), ("Rope", "['berth']")):
            begins = text.index("class Meta:", text.index(f"class {record}("))
            text = f"{text[:begins]}class Meta:\n        indexes = [models.Index(fields={fields})]{text[begins + 11 :]}"
        models.write_text(text, "utf-8")
        self.assert_ok(self.sprout("enable", "berth_register"))
        for words in (("makemigrations", "berth_register"), ("migrate",)):
            self.assertEqual(host_python("manage.py", *words, cwd=self.site).returncode, 0)
        for old, new, title in (
            ("berth_register", "mooring_list", "Mooring list"),
            ("mooring_list", "berth_register", "Berth register"),
            ("berth_register", "quays", "Quays"),
        ):
            with self.subTest(title):
                self.assert_ok(self.sprout("rename", old, title))
                drift = host_python("manage.py", "makemigrations", "--check", "--dry-run", new, cwd=self.site)
                self.assertEqual(drift.returncode, 0, drift.stdout)
                self.assert_ok(self.sprout("check", new))
        for database in self.site.glob("*.sqlite3"):
            database.unlink()
        self.assertEqual(host_python("manage.py", "migrate", cwd=self.site).returncode, 0)


class OnFlask(SiteCase):
    kit = "flask"

    def rows(self, question: str) -> list[tuple[object, ...]]:
        with closing(sqlite3.connect(next(self.site.glob("*.sqlite3")))) as connection, connection:
            return connection.execute(question).fetchall()

    def test_a_module_goes_with_its_tables_and_comes_back(self) -> None:
        self.assert_ok(
            self.sprout(
                "new", "Tide board", "--record", "Tide: station text(80)", "--page", "/tides: Tides, shows Tide"
            )
        )
        self.assert_ok(self.sprout("enable", "tide_board"))
        self.rows("insert into tide_board_tide (station) values ('Mole')")
        files = tree_of(self.site)
        self.assert_ok(self.sprout("rename", "tide_board", "Water level"))
        self.assertEqual(self.rows("select station from water_level_tide"), [("Mole",)])
        held = [path for path, content in tree_of(self.site).items() if b"tide_board" in content.lower()]
        self.assertEqual([path for path in held if not path.endswith((".sqlite3", ".pyc"))], [])
        self.assert_ok(self.sprout("check", "water_level"))
        self.assert_ok(self.sprout("rename", "water_level", "Tide board"))
        now = tree_of(self.site)
        differ = {path for path in {*files, *now} if files.get(path) != now.get(path) and not path.endswith(".pyc")}
        self.assertEqual({path for path in differ if not path.endswith(".sqlite3")}, set())
        self.assertEqual(self.rows("select station from tide_board_tide"), [("Mole",)])

    def test_a_module_of_one_file_alone(self) -> None:
        (self.site / "fog_horn.py").write_text(
            "from flask import Blueprint\n\nfog_horn = Blueprint('fog_horn', __name__)\n\n\n"
            "@fog_horn.get('/fog')\ndef fog():\n    return 'fog_horn'\n",
            "utf-8",
        )
        self.assert_ok(self.sprout("enable", "fog_horn"))
        self.assert_ok(self.sprout("rename", "fog_horn", "Mist bell"))
        self.assertFalse((self.site / "fog_horn.py").exists())
        self.assertIn("Blueprint('mist_bell'", (self.site / "mist_bell.py").read_text("utf-8"))
        self.assert_ok(self.sprout("check", "mist_bell"))


class OnTrytond(SiteCase):
    kit = "trytond"

    def rows(self, table: str) -> int:
        with closing(sqlite3.connect(next((self.site / "data").glob("*.sqlite")))) as connection:
            return int(connection.execute(f"select count(*) from {table}").fetchone()[0])

    def test_tables_ids_and_state_go_with_it_and_back(self) -> None:
        files = {path: held for path, held in tree_of(self.site).items() if path.startswith("modules/")}
        with closing(sqlite3.connect(next((self.site / "data").glob("*.sqlite")))) as connection, connection:
            connection.execute("insert into harbour_office_notice (title, text) values ('Fog', 'Stay in.')")
        rows = self.rows("harbour_office_notice")
        ran = self.assert_ok(self.sprout("rename", "harbour_office", "Port desk"))
        self.assertIn("update port_desk", ran.out)
        self.assertEqual(self.rows("port_desk_notice"), rows)
        self.assertEqual(self.rows("ir_model_data where module = 'harbour_office'"), 0)
        self.assert_ok(self.sprout("check"))
        self.assert_ok(self.sprout("rename", "port_desk", "Harbour office"))
        now = {path: held for path, held in tree_of(self.site).items() if path.startswith("modules/")}
        self.assertEqual({path for path in {*files, *now} if files.get(path) != now.get(path)}, set())
        self.assertEqual(self.rows("harbour_office_notice"), rows)
        self.assert_ok(self.sprout("check"))


class OnWordPress(WordPressCase):
    def setUp(self) -> None:
        super().setUp()
        self.addCleanup(trial(self.kit).stop, self.site)

    def test_it_is_on_under_its_new_name_with_its_tables_and_options(self) -> None:
        self.assert_ok(
            self.sprout("new", "Tide board", "--record", "Tide: station text(80)", "--page", "/tides: Tides")
        )
        self.assert_ok(self.sprout("enable", "tide-board"))
        ran = self.assert_ok(self.sprout("rename", "tide-board", "Water level"))
        self.assertIn("1 table,", ran.out)
        self.assertTrue((self.site / "wp-content/plugins/water-level/water-level.php").is_file())
        self.assertFalse((self.site / "wp-content/plugins/tide-board").exists())
        told = self.assert_ok(self.sprout("check", "water-level"))
        self.assertIn("on in the database as water-level/water-level.php", " ".join(told.out.split()))
        self.assert_ok(self.sprout("check"))

    def test_what_the_database_server_keeps_is_not_moved(self) -> None:
        kept = self.site / "database/data/tide-board.bin"
        kept.parent.mkdir(parents=True, exist_ok=True)
        kept.write_bytes(b"\0tide-board\0")
        self.assert_ok(self.sprout("new", "Tide board", "--page", "/tides: Tides"))
        self.assert_ok(self.sprout("rename", "tide-board", "Water level", "--preview"))
        self.assertNotIn("tide-board.bin", self.sprout("rename", "tide-board", "Water level", "--preview", "-v").out)


class AFieldOfAnotherModule(SiteCase):
    """Another module has a field of the module's name: field, column and migration are that one's."""

    def setUp(self) -> None:
        super().setUp()
        self.assert_ok(self.sprout("new", "Tide board", "--record", "Tide: station text(20)"))
        self.assert_ok(self.sprout("enable", "tide_board"))
        self.put("sailings/__init__.py", "")
        self.put("sailings/migrations/__init__.py", "")
        self.put(
            "sailings/apps.py",
            'from django.apps import AppConfig\n\n\nclass SailingsConfig(AppConfig):\n    name = "sailings"\n',
        )
        self.put(
            "sailings/models.py",
            "from django.db import models\n\n\nclass Sailing(models.Model):\n"
            "    tide_board = models.ForeignKey('tide_board.Tide', null=True, on_delete=models.SET_NULL)\n\n"
            "    @classmethod\n    def at_the_mole(cls):\n"
            "        return cls.objects.filter(tide_board__station='Mole').values_list('tide_board_id', flat=True)\n",
        )
        self.change("brindle_quay/settings.py", '"ferries",', '"sailings", "ferries",')
        for words in (("makemigrations", "sailings", "-n", "sailing_tide_board"), ("migrate",)):
            ran = host_python("manage.py", *words, cwd=self.site)
            self.assertEqual(ran.returncode, 0, ran.stderr)
        make = (
            "from sailings.models import Sailing; from tide_board.models import Tide; "
            "Sailing.objects.create(tide_board=Tide.objects.create(station='Mole'))"
        )
        self.assertEqual(host_python("manage.py", "shell", "-c", make, cwd=self.site).returncode, 0)

    def test_it_stays_as_it_is_and_what_it_points_at_is_renamed(self) -> None:
        files = tree_of(self.site / "sailings")
        ran = self.assert_ok(self.sprout("rename", "tide_board", "Water level"))
        self.assertIn("sailings/models.py:5", ran.out)
        models = (self.site / "sailings/models.py").read_text()
        self.assertEqual(models, files["models.py"].decode().replace("'tide_board.Tide'", "'water_level.Tide'"))
        self.assertTrue((self.site / "sailings/migrations/0001_sailing_tide_board.py").is_file())
        self.assert_ok(self.sprout("check"))
        changed = host_python("manage.py", "makemigrations", "--check", "--dry-run", cwd=self.site)
        self.assertEqual(changed.returncode, 0, changed.stdout)
        ask = "from sailings.models import Sailing; print(len(Sailing.at_the_mole()), Sailing.objects.get().tide_board)"
        self.assertIn("1 Mole", host_python("manage.py", "shell", "-c", ask, cwd=self.site).stdout)
        self.assert_ok(self.sprout("rename", "water_level", "Tide board"))
        back = tree_of(self.site / "sailings")
        self.assertEqual({path: back[path] for path in files}, files)

    def test_a_copy_takes_nothing_of_the_other_module(self) -> None:
        files = tree_of(self.site / "sailings")
        self.assert_ok(self.sprout("new", "Water level", "--like", "tide_board"))
        self.assert_ok(self.sprout("pattern", "take", "tide_board", "--as", "board"))
        self.assertEqual(tree_of(self.site / "sailings"), files)
        taken = [path for path in tree_of(self.site / "sprout-patterns") if "sailings" in path]
        self.assertEqual(taken, [])


class Copies(SiteCase):
    def setUp(self) -> None:
        super().setUp()
        page = "/berths: Berths, shows Berth, access may read Berth"
        self.assert_ok(
            self.sprout("new", "Berth register", "--record", RECORD, "--page", page, "--author", "Ida Quill")
        )
        self.assert_ok(self.sprout("enable", "berth_register"))

    def test_a_sibling_stands_beside_its_donor_and_passes_its_own_tests(self) -> None:
        files = {path: content for path, content in tree_of(self.site).items() if not path.endswith(".sqlite3")}
        preview = self.assert_ok(self.sprout("new", "Mooring list", "--like", "berth_register", "--preview"))
        self.assertIn("Would make mooring_list", preview.out)
        ran = self.assert_ok(self.sprout("new", "Mooring list", "--like", "berth_register"))
        self.assertIn("nothing of the donor's name", " ".join(ran.out.split()))
        now = tree_of(self.site)
        self.assertEqual({path: now[path] for path in files}, files)
        own = {path: content for path, content in now.items() if path.startswith("mooring_list/")}
        self.assertEqual([path for path, content in own.items() if b"berth_register" in content.lower()], [])
        self.assertNotIn(b"Ida Quill", own["mooring_list/sprout.toml"])
        self.assert_ok(self.sprout("enable", "mooring_list", "--at", "/mooring-list"))
        self.assert_ok(self.sprout("check"))
        self.assertEqual(host_python("manage.py", "test", cwd=self.site).returncode, 0)
        self.assertIn("nothing", self.assert_ok(self.sprout("refresh", "mooring_list")).out.lower())

    def test_the_copy_of_a_renamed_module_has_no_past(self) -> None:
        make = "from berth_register.models import Berth; Berth.objects.create(number='B1', length_m=9)"
        self.assertEqual(host_python("manage.py", "shell", "-c", make, cwd=self.site).returncode, 0)
        self.assert_ok(self.sprout("rename", "berth_register", "Mooring list"))
        self.assert_ok(self.sprout("new", "Buoy yard", "--like", "mooring_list", "--author", "Tom Reed"))
        self.assertIn('author = "Tom Reed"', (self.site / "buoy_yard/sprout.toml").read_text("utf-8"))
        self.assert_ok(self.sprout("enable", "buoy_yard", "--at", "/buoys"))
        ask = "from buoy_yard.models import Berth as A; from mooring_list.models import Berth as B; print(A.objects.count(), B.objects.count())"
        self.assertIn("0 1", host_python("manage.py", "shell", "-c", ask, cwd=self.site).stdout)

    def test_its_document_fits_its_schema(self) -> None:
        ran = self.assert_ok(
            self.sprout("new", "Buoy yard", "--like", "berth_register", "--preview", "--format", "json")
        )
        jsonschema.validate(ran.json, json.loads(SCHEMA.with_name("new-like.json").read_text("utf-8")))
        self.assertEqual((ran.json["module"], ran.json["left"]), ("buoy_yard", []))

    def test_what_does_not_go_with_it_is_refused(self) -> None:
        self.assertIn("[doubtful-alone]", self.assert_ok(self.sprout("new", "Buoy yard", "--doubtful", "take"), 2).err)
        for more, code in ((("--record", RECORD), "like-alone"), (("--brief", "x.toml"), "like-alone")):
            refused = self.assert_ok(self.sprout("new", "Buoy yard", "--like", "berth_register", *more), 2)
            self.assertIn(f"[{code}]", refused.err)
        self.assertIn("Nearest", self.assert_ok(self.sprout("new", "Buoy yard", "--like", "berth_registr"), 2).err)
        self.assertFalse((self.site / "buoy_yard").exists())
