"""Tables go only when everything else is sure: what can refuse refuses before, and what fails later puts rows back."""

import json
import os
import sqlite3
from unittest import mock

from swift_sprout.actions.hosting import HostChoice, open_host
from swift_sprout.actions.removing import remove
from swift_sprout.actions.switching import disable
from swift_sprout.core.errors import HostFailed, Refused
from swift_sprout.disk.journal import Journal

from ..support import DJANGO, SiteCase, host_python, tree_of


class Dropping(SiteCase):
    def rows(self) -> list[tuple[object, ...]]:
        connection = sqlite3.connect(self.site / "brindle_quay.sqlite3")
        try:
            return connection.execute("select landing, carries_vans from ferries_sailing order by id").fetchall()
        finally:
            connection.close()

    def refused(self, *said: str, status: int = 4) -> None:
        """Ask for the tables to be dropped: refused, with files and rows as before."""
        files, rows = tree_of(self.site), self.rows()
        ran = self.assert_ok(self.sprout("remove", "ferries", "--data", "drop"), status)
        for word in said:
            self.assertIn(word, ran.err)
        files.pop("brindle_quay.sqlite3")
        now = tree_of(self.site)
        now.pop("brindle_quay.sqlite3")
        self.assertEqual(now, files)
        self.assertEqual(self.rows(), rows)
        self.assertGreater(len(rows), 2)

    def test_a_migration_without_a_way_back_is_refused_before_anything_is_lost(self):
        self.change("ferries/migrations/0001_initial.py", ", migrations.RunPython.noop)", ")")
        self.refused("no way back")

    def test_tables_of_others_that_would_go_as_well_are_named(self):
        self.put("harbour_office/migrations/0002_rests.py", (
            "from django.db import migrations\n\n\nclass Migration(migrations.Migration):\n"
            '    dependencies = [("harbour_office", "0001_initial"), ("ferries", "0001_initial")]\n    operations = []\n'
        ))  # fmt: skip
        self.assert_ok(self.sprout("settle"))
        self.refused("harbour_office", "--data keep")

    def test_a_file_that_cannot_be_taken_away_is_found_out_before(self):
        os.chmod(self.site / "ferries/views.py", 0o444)
        self.refused("ferries/views.py")

    def test_a_host_that_does_not_start_without_it_is_found_out_before(self):
        views = self.site / "harbour_office/views.py"
        views.write_text("from ferries.models import Sailing\n" + views.read_text())
        self.refused("taken back")

    def test_a_damaged_database_stops_it(self):
        database = self.site / "brindle_quay.sqlite3"
        content = bytearray(database.read_bytes())
        content[4096:] = b"\xff" * (len(content) - 4096)
        database.write_bytes(content)
        before = tree_of(self.site)
        ran = self.sprout("remove", "ferries", "--data", "drop")
        self.assertIn(ran.status, (3, 4), ran.err)
        self.assertEqual(tree_of(self.site), before)
        self.assert_ok(self.sprout("remove", "ferries"), 4)
        self.assertEqual(tree_of(self.site), before)

    def test_what_the_host_keeps_beside_the_tables_is_named(self):
        ran = self.assert_ok(self.sprout("remove", "ferries", "--data", "drop"))
        self.assertIn("1 content type and 4 permissions stay: python manage.py remove_stale_contenttypes", ran.out)
        stale = host_python(
            "manage.py", "remove_stale_contenttypes", "--include-stale-apps", "--no-input", "-v", "2", cwd=self.site
        )
        self.assertIn("Deleting stale content type 'ferries | sailing'", stale.stdout + stale.stderr)

    def test_what_the_host_keeps_beside_the_tables_is_taken_on_request(self):
        self.assertIn(
            "goes with --data drop", self.assert_ok(self.sprout("remove", "ferries", "--leftovers", "drop"), 2).err
        )
        media = self.site / "media/ferries"
        settings = self.site / "brindle_quay/settings.py"
        settings.write_text(settings.read_text() + '\nMEDIA_ROOT = BASE_DIR / "media"\n')
        media.mkdir(parents=True)
        (media / "timetable.pdf").write_text("plan")
        ran = self.assert_ok(self.sprout("remove", "ferries", "--data", "drop", "--leftovers", "drop"))
        self.assertIn("take away 1 content type and 4 permissions, 1 uploaded file", " ".join(ran.out.split()))
        self.assertNotIn("stay", ran.out)
        self.assertFalse(media.exists())
        asked = "from django.contrib.contenttypes.models import ContentType as C; print(C.objects.filter(app_label='ferries').count())"
        self.assertEqual(host_python("manage.py", "shell", "-v", "0", "-c", asked, cwd=self.site).stdout.strip(), "0")
        beside = [one for one in self.kept_rows() if one.name.startswith("beside-")]
        self.assertIn("auth.permission", beside[0].read_text())
        self.assertEqual((beside[0].with_suffix(".files") / "timetable.pdf").read_text(), "plan")
        self.assert_ok(self.sprout("undo"))
        self.assert_ok(self.sprout("settle"))
        self.assert_ok(self.sprout("check"))

    def test_rows_that_a_manager_hides_are_saved_as_well(self):
        models = self.site / "ferries/models.py"
        hiding = "class Vans(models.Manager):\n    def get_queryset(self):\n        return super().get_queryset().filter(carries_vans=True)\n\n\n"
        text = models.read_text().replace("class Sailing(", hiding + "class Sailing(")
        models.write_text(text.replace("    class Meta:", "    objects = Vans()\n\n    class Meta:"))
        rows = self.rows()
        ran = self.assert_ok(self.sprout("remove", "ferries", "--data", "drop"))
        kept = self.kept_rows()[0]
        self.assertIn(f"{len(rows)} rows are kept in {kept}", ran.out)
        self.assertEqual(kept.stat().st_mode & 0o777, 0o600)
        self.assertEqual(len(json.loads(kept.read_text())), len(rows))

    def test_a_failure_after_the_drop_puts_the_rows_back(self):
        rows = self.rows()
        opened = open_host(HostChoice(str(self.site), "django", str(DJANGO), writes=True))
        real, seen = Journal.apply, []

        def failing(journal, changes):
            seen.append(changes.title)
            if len(seen) == 2:
                raise Refused("cannot-write", "The disk went away.", "Bring it back.")
            return real(journal, changes)

        with mock.patch.object(Journal, "apply", failing), self.assertRaises(HostFailed) as caught:
            remove(opened, "ferries", "drop", False)
        self.assertIn("Tables and rows were put back", caught.exception.sentence)
        self.assertEqual(self.rows(), rows)
        self.assert_ok(self.sprout("check", "ferries"))

    def test_rows_that_cannot_be_put_back_are_told_where_they_are(self):
        opened = open_host(HostChoice(str(self.site), "django", str(DJANGO), writes=True))
        calls = []

        def failing(journal, changes, real=Journal.apply):
            calls.append(changes)
            if len(calls) == 2:
                raise Refused("cannot-write", "The disk went away.", "Bring it back.")
            return real(journal, changes)

        broken = mock.patch.object(
            type(opened.host), "load_rows", side_effect=HostFailed("x", "No server.", "Start it.")
        )
        with mock.patch.object(Journal, "apply", failing), broken, self.assertRaises(HostFailed) as caught:
            remove(opened, "ferries", "drop", False)
        kept = self.kept_rows()[0]
        self.assertIn(str(kept), caught.exception.sentence)
        self.assertGreater(len(json.loads(kept.read_text())), 2)

    def test_what_keeps_the_host_from_being_asked_takes_everything_back(self):
        before = tree_of(self.site)
        opened = open_host(HostChoice(str(self.site), "django", str(DJANGO), writes=True))
        for error in (HostFailed("x", "No room.", "Make room."), KeyboardInterrupt()):
            for act in (lambda: remove(opened, "ferries", "keep", False), lambda: disable(opened, "ferries", False)):
                asked = mock.patch.object(type(opened.host), "start_up", side_effect=error)
                with asked, self.assertRaises(type(error)):
                    act()
                self.assertEqual(tree_of(self.site), before)

    def test_a_run_that_is_killed_in_between_leaves_word_of_the_rows(self):
        rows = self.rows()
        child = os.fork()
        if child == 0:
            opened = open_host(HostChoice(str(self.site), "django", str(DJANGO), writes=True))
            seen = []

            def killed(journal, changes, real=Journal.apply):
                seen.append(changes)
                if len(seen) == 2:
                    os._exit(9)
                return real(journal, changes)

            with mock.patch.object(Journal, "apply", killed):
                remove(opened, "ferries", "drop", False)
            os._exit(1)
        self.assertEqual(os.waitstatus_to_exitcode(os.waitpid(child, 0)[1]), 9)
        kept = self.kept_rows()[0]
        self.assertEqual(len(json.loads(kept.read_text())), len(rows))
        self.assertIn(f"its {len(rows)} rows are kept in {kept}", self.sprout("survey", "--static").err)
        kept.unlink()
        self.assertEqual(self.sprout("survey", "--static").err, "")
