"""``refresh`` and ``adopt``: the brief and the code stay one, and nothing that a person wrote is lost."""

from __future__ import annotations

import shutil
import sqlite3
import subprocess

from trials.hosts import copy_host, runtime_options, trial

from ..support import BRIEFS, Case, SiteCase, built_demo, host_python, need_wordpress, sprout, tree_of

BRIEF = "berth_register/sprout.toml"


class Renamed(SiteCase):
    def test_a_renamed_field_keeps_what_stands_in_its_column(self):
        record = "Tide: station text(80), note long text, optional, height_m decimal(4,2), optional"
        self.assert_ok(self.sprout("new", "Tide board", "--record", record))
        self.assert_ok(self.sprout("enable", "tide_board"))
        make = "from tide_board.models import Tide; Tide.objects.create(station='Mole', note='Mind the bar')"
        self.assertEqual(host_python("manage.py", "shell", "-c", make, cwd=self.site).returncode, 0)
        self.change("tide_board/sprout.toml", "note: long text", "remark: long text")
        self.assert_ok(self.sprout("refresh", "tide_board"))
        migration = next((self.site / "tide_board/migrations").glob("0002*.py")).read_text()
        self.assertIn("RenameField", migration)
        self.assertNotIn("RemoveField", migration)
        self.assert_ok(self.sprout("settle", "tide_board"))
        self.assert_ok(self.sprout("check", "tide_board"))
        ask = "from tide_board.models import Tide; print(Tide.objects.get().remark)"
        self.assertIn("Mind the bar", host_python("manage.py", "shell", "-c", ask, cwd=self.site).stdout)

    def test_adopting_below_an_address_names_no_page_twice(self):
        self.assert_ok(self.sprout("new", "Tide board", "--record", "Tide: note text(30)"))
        self.assert_ok(self.sprout("enable", "tide_board", "--at", "/water"))
        (self.site / "tide_board/sprout.made").unlink()
        self.assert_ok(self.sprout("adopt", "tide_board"))
        self.assertEqual((self.site / "tide_board/sprout.toml").read_text().count("[[page]]"), 1)
        self.assertIn("nothing was changed", self.assert_ok(self.sprout("refresh", "tide_board")).out)
        self.assert_ok(self.sprout("check"))

    def test_a_renamed_record_keeps_its_rows_and_what_points_at_them(self):
        self.assert_ok(
            self.sprout(
                "new", "Berth register", "--record", "Berth: number text(12), unique",
                "--record", "Booking: berth -> Berth (bookings), vessel text(60)",
            )
        )  # fmt: skip
        self.assert_ok(self.sprout("enable", "berth_register"))
        make = (
            "from berth_register.models import Berth, Booking; "
            "Booking.objects.create(berth=Berth.objects.create(number='7'), vessel='Gull')"
        )
        self.assertEqual(host_python("manage.py", "shell", "-c", make, cwd=self.site).returncode, 0)
        self.change("berth_register/sprout.toml", 'name = "Berth"\n', 'name = "Mooring"\n')
        self.change("berth_register/sprout.toml", "-> Berth (", "-> Mooring (")
        self.change("berth_register/sprout.toml", 'shows = "Berth"', 'shows = "Mooring"')
        ran = self.assert_ok(self.sprout("refresh", "berth_register"))
        self.assertIn("Berth is Mooring now: its table keeps its rows", " ".join(ran.out.split()))
        migration = next((self.site / "berth_register/migrations").glob("0002*.py")).read_text()
        self.assertIn("RenameModel", migration)
        for lost in ("DeleteModel", "CreateModel", "AlterField"):
            self.assertNotIn(lost, migration)
        self.assert_ok(self.sprout("settle", "berth_register"))
        self.assert_ok(self.sprout("check", "berth_register"))
        ask = "from berth_register.models import Booking; print(Booking.objects.get().berth.number)"
        self.assertIn("7", host_python("manage.py", "shell", "-c", ask, cwd=self.site).stdout)
        changed = host_python("manage.py", "makemigrations", "--check", cwd=self.site)
        self.assertEqual(changed.returncode, 0, changed.stdout)

    def test_two_new_records_alike_leave_open_which_is_the_old_one(self):
        self.assert_ok(self.sprout("new", "Tide board", "--record", "Tide: note text(30)", "--no-page"))
        text = (self.site / "tide_board/sprout.toml").read_text().replace('name = "Tide"', 'name = "Ebb"')
        text += '\n[[record]]\nname = "Flood"\nfields = ["note: text(30)"]\n'
        (self.site / "tide_board/sprout.toml").write_text(text)
        ran = self.assert_ok(self.sprout("refresh", "tide_board"))
        self.assertIn("the record Tide is no longer in the brief: its table goes", " ".join(ran.out.split()))
        migration = next((self.site / "tide_board/migrations").glob("0002*.py")).read_text()
        self.assertIn("DeleteModel", migration)
        self.assertNotIn("RenameModel", migration)

    def test_a_field_of_another_sort_in_its_place_is_a_new_one(self):
        self.assert_ok(self.sprout("new", "Tide board", "--record", "Tide: station text(80), note text(30), optional"))
        self.change("tide_board/sprout.toml", "note: text(30), optional", "depth_m: integer, optional")
        ran = self.assert_ok(self.sprout("refresh", "tide_board"))
        self.assertIn("the field note of Tide is no longer in the brief: its column goes", " ".join(ran.out.split()))
        migration = next((self.site / "tide_board/migrations").glob("0002*.py")).read_text()
        self.assertIn("RemoveField", migration)
        self.assertNotIn("RenameField", migration)


class RefreshCase(SiteCase):
    def setUp(self) -> None:
        super().setUp()
        record = "Berth: number text(12), unique, length_m decimal(5,1)"
        self.assert_ok(self.sprout("new", "Berth register", "--record", record))
        self.assert_ok(self.sprout("enable", "berth_register"))

    def read(self, path: str) -> str:
        return (self.site / "berth_register" / path).read_text("utf-8")


class Refresh(RefreshCase):
    def test_an_unchanged_brief_changes_nothing_whatever_people_wrote(self):
        self.change("berth_register/models.py", "class Berth(", "# mine\nclass Berth(")
        self.change("berth_register/views.py", "paginate_by = 50", "paginate_by = 12")
        (self.site / "berth_register/tests/samples.py").unlink()
        before = tree_of(self.site)
        ran = self.assert_ok(self.sprout("refresh", "berth_register"))
        self.assertIn("nothing was changed", ran.out)
        self.assertEqual(tree_of(self.site), before)

    def test_a_changed_brief_reaches_files_database_and_page(self):
        self.change(
            BRIEF,
            '"length_m: decimal(5,1)"',
            '"length_m: decimal(6,1), label \\"Metres\\"", "quay: text(9), default north"',
        )
        self.change(BRIEF, 'title = "Berths"', 'title = "All our berths"')
        self.change("berth_register/models.py", "class Berth(", "# mine\nclass Berth(")
        self.change("berth_register/views.py", "paginate_by = 50", "paginate_by = 12")
        ran = self.assert_ok(self.sprout("refresh", "berth_register", "--preview"))
        self.assertIn("+    quay = models.CharField", ran.out)
        self.assertNotIn("quay", self.read("models.py"))
        ran = self.assert_ok(self.sprout("refresh", "berth_register", "--format", "json"))
        self.assertEqual((ran.json["conflicts"], ran.json["written"]), ([], True))
        self.assertIn("migrate", [one["kind"] for one in ran.json["refresh"]])
        self.assertIn("# mine\nclass Berth(", self.read("models.py"))
        self.assertIn("paginate_by = 12", self.read("views.py"))
        self.assertIn("All our berths", self.read("views.py"))
        self.assert_ok(self.sprout("settle"))
        self.assert_ok(self.sprout("check", "berth_register"))
        ran_tests = host_python("manage.py", "test", "berth_register", cwd=self.site)
        self.assertEqual(ran_tests.returncode, 0, ran_tests.stderr)
        self.assertIn("nothing was changed", self.sprout("refresh", "berth_register").out)

    def test_a_part_that_is_gone_takes_only_untouched_files_with_it(self):
        for line in ("/wind: Wind", "/waves: Waves"):
            self.assert_ok(self.sprout("add", "page", line, "--to", "berth_register"))
        self.change("berth_register/templates/berth_register/waves.html", "<h1>", "<h1 id='mine'>")
        text = (self.site / BRIEF).read_text()
        (self.site / BRIEF).write_text(text[: text.index('\n[[page]]\npath = "/wind"')])
        ran = self.assert_ok(self.sprout("refresh", "berth_register"))
        self.assertFalse((self.site / "berth_register/templates/berth_register/wind.html").exists())
        self.assertIn("mine", self.read("templates/berth_register/waves.html"))
        self.assertIn("waves.html is no longer made, but was changed by hand, and stays", " ".join(ran.out.split()))
        self.assertNotIn("WavesPage", self.read("views.py"))
        self.assert_ok(self.sprout("check", "berth_register"))

    def test_conflicts_are_marked_listed_and_must_be_mended_first(self):
        self.change("berth_register/templates/berth_register/berths_list.html", "<h1>{{ title }}</h1>", "<h1>Mine</h1>")
        self.change("berth_register/views.py", '"title": _("Berths"), "text": ""', '"title": "Mine", "text": ""')
        self.change(BRIEF, 'title = "Berths"', 'title = "All our berths"')
        ran = self.assert_ok(self.sprout("refresh", "berth_register", "--format", "json"), 1)
        self.assertEqual(len(ran.json["conflicts"]), 1)
        self.assertTrue(ran.json["conflicts"][0].startswith("berth_register/views.py:"))
        views = self.read("views.py")
        for mark in ("<<<<<<< yours\n", "=======\n", ">>>>>>> from the brief\n", '"title": "Mine"', "All our berths"):
            self.assertIn(mark, views)
        before = tree_of(self.site)
        ran = self.assert_ok(self.sprout("refresh", "berth_register"), 4)
        self.assertIn("conflict marks stand there", ran.err)
        self.assertEqual(tree_of(self.site), before)
        checked = self.sprout("check", "berth_register", "--format", "json")
        self.assertEqual(self.codes(checked, "berth_register")[0], "described.conflict-marks")
        self.assert_ok(self.sprout("undo"))
        self.assertIn('"title": "Mine"', self.read("views.py"))
        self.assertNotIn("<<<<", self.read("views.py"))

    def test_it_works_on_another_machine_with_what_is_kept_with_the_project(self):
        self.change("berth_register/models.py", "class Berth(", "# mine\nclass Berth(")
        elsewhere = self.folder / "elsewhere"
        shutil.copytree(self.site, elsewhere, ignore=shutil.ignore_patterns("__pycache__"))
        self.site = elsewhere
        self.change(BRIEF, '"length_m: decimal(5,1)"', '"length_m: decimal(5,1)", "lit: yes/no"')
        self.assert_ok(self.sprout("refresh", "berth_register"))
        self.assertIn("# mine\nclass Berth(", self.read("models.py"))
        self.assertIn("lit = models.BooleanField", self.read("models.py"))
        self.assert_ok(self.sprout("settle"))
        self.assert_ok(self.sprout("check", "berth_register"))

    def test_what_cannot_be_done_is_refused_with_the_place(self):
        for old, new, status, wanted in (
            ('"length_m: decimal(5,1)"', '"length_m: decimal(5,1)", "owner -> user"', 2, "could not be given a value"),
            ('"length_m: decimal(5,1)"', '"length_m: decimal(5,1)", "code: text(3), unique"', 2, "could not be given"),
            ('path = "/berths"', 'path = "/ferries"', 4, "answered already"),
            ('internal = "berth_register"', 'internal = "berths"', 2, "not of berth_register"),
            ('name = "Berth"', 'name = "Berth', 2, "sprout.toml:"),
        ):
            with self.subTest(new):
                text = (self.site / BRIEF).read_text()
                self.change(BRIEF, old, new)
                before = tree_of(self.site)
                ran = self.assert_ok(self.sprout("refresh", "berth_register"), status)
                self.assertIn(wanted, ran.err)
                self.assertEqual(tree_of(self.site), before)
                (self.site / BRIEF).write_text(text)
        made = self.site / "berth_register/sprout.made"
        made.write_bytes(made.read_bytes()[:-40] + b"\n")
        self.assertIn("sprout.made:", self.assert_ok(self.sprout("refresh", "berth_register"), 4).err)
        made.unlink()
        self.assertIn("swift-sprout adopt", self.assert_ok(self.sprout("refresh", "berth_register"), 4).err)


class Adopt(RefreshCase):
    def test_the_brief_of_a_module_made_by_hand(self):
        before = tree_of(self.site / "ferries")
        ran = self.assert_ok(self.sprout("adopt", "ferries", "--preview", "--format", "json"))
        self.assertEqual(tree_of(self.site / "ferries"), before)
        brief = ran.json["brief"]
        self.assertEqual(brief["record"][0]["fields"], ["leaves_at: time", "landing: text(60)", "carries_vans: yes/no"])
        self.assertEqual(
            brief["page"][0], {"path": "/ferries", "title": "Ferry timetable", "shows": "Sailing", "view": "list"}
        )
        self.assert_ok(self.sprout("adopt", "ferries"))
        after = tree_of(self.site / "ferries")
        self.assertEqual(set(after) - set(before), {"sprout.toml", "sprout.made"})
        self.assertEqual({path: after[path] for path in before}, before)
        self.assertIn("nothing was changed", self.assert_ok(self.sprout("adopt", "ferries")).out)
        self.assertIn("nothing was changed", self.assert_ok(self.sprout("refresh", "ferries")).out)
        self.assert_ok(self.sprout("check", "ferries"))

    def test_an_adopted_module_is_refreshed_and_stays_served(self):
        self.assert_ok(self.sprout("adopt", "ferries"))
        self.change("ferries/sprout.toml", '"landing: text(60)"', '"landing: text(80)"')
        self.assert_ok(self.sprout("refresh", "ferries"))
        self.assertIn("max_length=80", (self.site / "ferries/models.py").read_text())
        self.assert_ok(self.sprout("settle"))
        self.assert_ok(self.sprout("check", "ferries"))

    def test_what_is_adopted_from_a_made_module_is_what_its_brief_said(self):
        from swift_sprout.actions.hosting import HostChoice, open_host
        from swift_sprout.core.brief import brief_from_toml

        written = brief_from_toml((BRIEFS / "berth_register.toml").read_text("utf-8"), "x")
        self.assert_ok(self.sprout("disable", "berth_register"))
        shutil.rmtree(self.site / "berth_register")
        self.assert_ok(self.sprout("new", "--brief", str(BRIEFS / "berth_register.toml")))
        self.assert_ok(self.sprout("enable", "berth_register"))
        read = open_host(HostChoice(str(self.site))).host.read_brief("berth_register")
        self.assertEqual(read.left_out, [])
        self.assertEqual([one.fields for one in read.brief.records], [one.fields for one in written.records])
        self.assertEqual(read.brief.permissions, written.permissions)
        self.assertEqual(read.brief.groups, written.groups)
        self.assertEqual(read.brief.settings, written.settings)
        for kind in ("page", "menu", "block", "command"):
            keys = {part.key for part in read.brief.parts(kind)}
            self.assertEqual(keys, {part.key for part in written.parts(kind)}, kind)

    def test_parts_added_by_hand_are_told_and_taken_up(self):
        self.change(
            "berth_register/models.py",
            "    def __str__(self):",
            '    depth = models.IntegerField("Depth", null=True, blank=True)\n\n    def __str__(self):',
        )
        path = self.site / "berth_register/models.py"
        path.write_text(
            path.read_text() + "\n\nclass Crane(models.Model):\n    name = models.CharField(max_length=20)\n"
        )
        ran = self.sprout("check", "berth_register", "--static", "--format", "json")
        self.assertEqual(self.codes(ran, "berth_register"), ["described.part-not-in-brief"])
        self.assert_ok(self.sprout("adopt", "berth_register"))
        self.assertIn('name = "Crane"', self.read("sprout.toml"))
        self.assertEqual(self.codes(self.sprout("check", "--static", "--format", "json"), "berth_register"), [])

    def test_what_a_brief_cannot_say_is_told(self):
        self.put(
            "ferries/models.py",
            (self.site / "ferries/models.py").read_text()
            + "\n\nclass Odd(models.Model):\n    raw = models.BinaryField()\n    self_made = models.GenericIPAddressField()\n",
        )
        ran = self.assert_ok(self.sprout("adopt", "ferries"))
        self.assertIn("Odd.raw", ran.out)
        self.assertIn("ferries/models.py:", ran.out)


class RecordsElsewhere(Case):
    """On the other hosts the database is changed by the refresh itself."""

    def test_a_renamed_record_keeps_its_rows(self):
        need_wordpress()
        for kit, brief, start in (
            ("trytond", "modules/rope_walk/sprout.toml", ""),
            ("wordpress", "wp-content/plugins/rope-walk/sprout.toml", "bq_"),
            ("flask", "rope_walk/sprout.toml", ""),
        ):
            with self.subTest(kit):
                site = self.folder / kit
                copy_host(kit, built_demo(kit), site)
                options = ["--host", site, *runtime_options(kit)]
                record = "Rope: number text(12), unique"
                self.assert_ok(sprout("new", "Rope walk", "--record", record, *options))
                self.assert_ok(sprout("enable", "rope_walk", *options))
                trial(kit).run_sql(site, f"insert into {start}rope_walk_rope (number) values ('R1')")
                text = (site / brief).read_text().replace('name = "Rope"\n', 'name = "Hawser"\n')
                (site / brief).write_text(text.replace('shows = "Rope"', 'shows = "Hawser"'))
                ran = self.assert_ok(sprout("refresh", "rope_walk", *options))
                self.assertIn("Rope is Hawser now: its rows go along", " ".join(ran.out.split()))
                table = f"{start}rope_walk_hawser"
                trial(kit).run_sql(site, f"update {table} set number = number")  # the table is there
                with self.assertRaises((sqlite3.Error, subprocess.CalledProcessError)):  # and so is the row
                    trial(kit).run_sql(site, f"insert into {table} (number) values ('R1')")
                self.assert_ok(sprout("settle", "rope_walk", *options))
                self.assert_ok(sprout("check", "rope_walk", *options))
                self.assert_ok(sprout("undo", *options[:2]))
                self.assert_ok(sprout("refresh", "rope_walk", *options))  # the database has the new name already
                self.assert_ok(sprout("check", "rope_walk", *options))
