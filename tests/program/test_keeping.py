"""What a check keeps of a host's files for the next one: it must never tell what is not so any more."""

import json
import os
import shutil
import sqlite3
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from unittest import mock

from swift_sprout.actions.checking import judging_folders
from swift_sprout.caching.remembered import remembered
from swift_sprout.caching.rests_on import RestsOn
from swift_sprout.hosts.registry import kit_named
from swift_sprout.running.copies import end_copies

from ..support import TRYTOND, Case, Ran, SiteCase, WordPressCase, sprout, world_of

SETTLED_SECONDS = 2.1  # younger files are not trusted to be as they were


class Keeping(SiteCase):
    def setUp(self) -> None:
        super().setUp()
        self.cache = self.folder / "cache"
        #  the copy of the site is younger than what is trusted: as old as a site that somebody works on
        time.sleep(SETTLED_SECONDS)

    def check(self, *words: str | Path, status: int = 0, **environment: str) -> dict[str, list[str]]:
        """Return the codes of the findings by module."""
        ran = self.sprout("check", *words, "--format", "json", XDG_CACHE_HOME=str(self.cache), **environment)
        self.assert_ok(ran, status)
        modules = ran.json["setups"][0]["modules"]
        return {one["module"]: sorted(finding["code"] for finding in one["findings"]) for one in modules}

    def kept(self) -> list[Path]:
        return sorted((self.cache / "swift-sprout/checks").glob("*/result.json"))

    def doctor(self, words: str) -> None:
        """Put a finding's cause into what is kept, so that it shows whether it was taken from there."""
        for path in self.kept():
            text = path.read_text()
            self.assertIn(words, text)
            path.write_text(text.replace(words, "as it was kept"))

    def break_a_page(self) -> None:
        self.change("ferries/urls.py", "views.", "views.not_")

    def test_what_is_kept_is_taken_and_a_change_of_one_letter_is_seen(self):
        for words in (("--static",), ()):
            with self.subTest(words):
                shutil.rmtree(self.cache, ignore_errors=True)
                before = (self.site / "ferries/apps.py").read_text()
                self.change("ferries/apps.py", "name = ", "label = 'a b'\n    name = ")
                time.sleep(SETTLED_SECONDS)
                first = self.check(*words, status=3 if not words else 1)
                self.assertIn("described.label-unusable", first["ferries"])
                self.doctor("a b")
                ran = self.sprout("check", *words, "--format", "json", XDG_CACHE_HOME=str(self.cache))
                self.assertIn("as it was kept", ran.out)
                (self.site / "ferries/apps.py").write_text(before)
                self.assertEqual(self.check(*words)["ferries"], [])

    def test_a_change_that_hides_its_time_is_seen(self):
        path = self.site / "ferries/apps.py"
        time.sleep(SETTLED_SECONDS)
        self.assertEqual(self.check("--static")["ferries"], [])
        text, told = path.read_text(), path.stat()
        path.write_text(text.replace('name = "ferries"', 'name = "ferriez"'))
        os.utime(path, ns=(told.st_atime_ns, told.st_mtime_ns))
        self.assertEqual(path.stat().st_size, told.st_size)
        self.assertIn("described.name-disagrees", self.check("--static", status=1)["ferries"])

    def test_a_file_that_comes_or_goes_is_seen(self):
        self.assertEqual(self.check("--static")["ferries"], [])
        self.put("ferries/admins.py", "from django.contrib import admin\n")
        self.assertEqual(self.check("--static", status=1)["ferries"], ["enabled.file-misnamed"])
        (self.site / "ferries/admins.py").unlink()
        self.assertEqual(self.check("--static")["ferries"], [])

    def test_rows_in_the_database_change_nothing(self):
        self.check("--static")
        kept = {path: path.stat().st_mtime_ns for path in self.kept()}
        connection = sqlite3.connect(self.site / "brindle_quay.sqlite3")
        connection.execute("create table quay (name text)")
        connection.commit()
        connection.close()
        self.check("--static")
        self.assertEqual({path: path.stat().st_mtime_ns for path in self.kept()}, kept)

    def test_the_environment_and_the_question_count(self):
        self.check("--static")
        self.check("--static", QUAY_MODE="storm")
        self.check("ferries", "--static")
        self.assertEqual(len(self.kept()), 2)
        self.check("ferries")
        self.check()
        self.assertEqual(len(self.kept()), 4)

    def test_what_somebody_else_has_put_there_is_not_believed(self):
        time.sleep(SETTLED_SECONDS)
        good = self.check()
        [path] = self.kept()
        document = json.loads(path.read_text())
        results: tuple[object, ...] = (None, 3, [], {}, {"ferries": 1}, {"ferries": [[1]], "harbour_office": []})
        for result in results:
            with self.subTest(result):
                path.write_text(json.dumps({**document, "result": result}))
                self.assertEqual(self.check(), good)

    def test_it_is_for_this_user_alone(self):
        self.check("--static")
        self.check()
        self.assertEqual({path.parent.stat().st_mode & 0o777 for path in self.kept()}, {0o700})

    def test_a_folder_that_cannot_be_written_hinders_nothing(self):
        self.cache.write_text("no folder")
        self.assertEqual(self.check()["ferries"], [])
        self.assertEqual(self.check("--static")["ferries"], [])


class ChangedMeanwhile(Case):
    """A file is changed while a result is worked out: what was found may be of the old or of the new one."""

    def setUp(self) -> None:
        super().setUp()
        self.write("quay/berths.py", "berths = 4")
        self.write("quay/tides/high.py", "high = 12")
        time.sleep(0.2)  # older than the program's start
        self.enterContext(mock.patch.dict(os.environ, {"XDG_CACHE_HOME": str(self.folder / "cache")}))

    def asked(self, aside: bool, meanwhile: Callable[[], object] = lambda: None) -> str:
        """Ask a question whose answer is worked out once more where none is kept; returns which answer it was."""
        self.answers = getattr(self, "answers", 0) + 1

        def work() -> str:
            time.sleep(0.3)  # by then a copy of the process has read the files
            meanwhile()
            return f"answer {self.answers}"

        rests_on = RestsOn((str(self.folder / "quay"),))
        answer: str = remembered(f"which {aside}", rests_on, judging_folders(kit_named("django")), work, aside)
        end_copies()
        return answer

    def test_nothing_is_kept_then(self):
        tides = self.folder / "quay/tides"
        changes: dict[str, Callable[[], object]] = {
            "written": lambda: self.write("quay/berths.py", "berths = 5"),
            "written and put back": lambda: [self.write("quay/berths.py", f"berths = {count}") for count in (5, 4)],
            "new": lambda: self.write("quay/tides/low.py", "low = 6"),
            "gone": lambda: os.unlink(tides / "high.py"),
            "new and gone": lambda: os.unlink(self.write("quay/buoys.py", "")),
        }
        for name, change in changes.items():
            for aside in (True, False):
                if name == "new and gone" and not aside:
                    continue  # seen by the times of folders, which what is worked out beside a running host leaves out
                with self.subTest(name, aside=aside):
                    shutil.rmtree(self.folder / "cache", ignore_errors=True)
                    self.write("quay/tides/high.py", "high = 12")
                    time.sleep(0.2)
                    first = self.asked(aside, change)
                    self.assertNotEqual(self.asked(aside), first)

    def test_without_a_change_it_is_kept(self):
        for aside in (True, False):
            first = self.asked(aside)
            self.assertEqual(self.asked(aside), first)


#  a program that asks a question about a folder, and reads a file of it while something changes
ASKING = """
import os, sys, time
from swift_sprout.actions.checking import judging_folders
from swift_sprout.caching.remembered import remembered
from swift_sprout.disk.guard import guard_reading, read_content
from swift_sprout.caching.rests_on import RestsOn
from swift_sprout.hosts.registry import kit_named
from swift_sprout.running.copies import end_copies
from swift_sprout.running.cores import InCopy

folder, answer, before, after = sys.argv[1:]
path = folder + "/berths.py"

def by_another():
    import subprocess
    subprocess.run(["cat", path], check=True, capture_output=True)

ways = {
    "quickly": lambda: read_content(path),
    "plainly": lambda: open(path).read(),
    "in a copy": lambda: InCopy(lambda: read_content(path)).result(),
    "in a copy that dies": lambda: InCopy(lambda: os.getpid() == here or os.abort()).result(),
    "by another program": by_another,
}
here = os.getpid()
guard_reading()

def work():
    time.sleep(0.3)  # by then the copy that keeps it has read the files
    exec(before)
    for read in ways.values() if way == "all" else [ways[way]]:
        read()
    exec(after)
    return answer

way, answer = answer.split(":", 1)
print(remembered("how many berths", RestsOn((folder,)), judging_folders(kit_named("django")), work))
end_copies()
"""


class ReadMeanwhile(Case):
    """What is noted while files are read tells whether a result may be kept: other files need not be asked again."""

    def setUp(self) -> None:
        super().setUp()
        self.path = self.write("quay/berths.py", "berths = 4")
        self.write("quay/tides/high.py", "high = 12")

    def asked(self, way: str, before: str = "", after: str = "") -> bool:
        """Ask twice, the second time while nothing changes; returns whether the first answer was kept."""
        shutil.rmtree(self.folder / "cache", ignore_errors=True)
        time.sleep(0.2)  # what there is is older than the program's start
        told = [
            subprocess.run(
                [sys.executable, "-c", ASKING, self.folder / "quay", f"{way}:{answer}", *changes],
                env={**os.environ, "XDG_CACHE_HOME": str(self.folder / "cache")},
                capture_output=True,
                text=True,
                check=True,
                timeout=60,
            ).stdout.strip()
            for answer, changes in (("first", (before, after)), ("second", ("", "")))
        ]
        self.assertIn(told, (["first", "first"], ["first", "second"]))
        return told[1] == "first"

    def test_nothing_is_kept_where_a_change_was_read_however_it_was(self):
        written = "open(path, 'w').write('berths = 5')"
        back = "open(path, 'w').write('berths = 4')"
        for way in ("quickly", "plainly", "in a copy", "by another program"):
            with self.subTest(way):
                self.assertTrue(self.asked(way))
                self.assertFalse(self.asked(way, written, back))
        self.assertFalse(self.asked("in a copy that dies", written, back))

    def test_nothing_is_kept_where_a_file_has_come_or_gone(self):
        new = "open(folder + '/tides/low.py', 'w').close()"
        gone = "os.unlink(folder + '/tides/low.py')"
        self.assertFalse(self.asked("quickly", new, gone))
        self.assertFalse(self.asked("quickly", new))
        self.assertFalse(self.asked("quickly", "", gone))

    def test_a_change_after_all_was_read_is_seen_the_next_time(self):
        self.assertFalse(self.asked("all", "", "open(path, 'w').write('berths = 5')"))


class KeepingOnTrytond(Case):
    """The states that the database holds count there, also those that stand in its newest rows only."""

    def check(self) -> Ran:
        host = ("--host", self.folder / "platform", "--runtime", TRYTOND)
        return sprout("check", "--static", "--format", "json", *host, XDG_CACHE_HOME=str(self.folder / "cache"))

    def test_a_state_that_changes_in_the_database_is_seen(self):
        shutil.copytree(world_of("trytond"), self.folder / "platform")
        configuration = self.folder / "platform/trytond.conf"
        configuration.write_text(configuration.read_text().replace("{folder}", str(configuration.parent)))
        database = self.folder / "platform/data/brindle_quay.sqlite"
        database.parent.mkdir(exist_ok=True)
        connection = sqlite3.connect(database)
        connection.execute("pragma journal_mode = wal")
        connection.execute("create table ir_module (name text, state text)")
        connection.execute("create table ir_configuration (series text)")
        connection.execute("create table ir_model_data (module text, fs_id text)")
        connection.execute("insert into ir_module values ('ir', 'activated')")
        connection.commit()
        time.sleep(SETTLED_SECONDS)
        self.check()
        kept = (self.folder / "cache/swift-sprout/checks").glob("*/result.json")
        first = {path: json.loads(path.read_text())["content"] for path in kept}
        self.check()
        self.assertEqual({path: json.loads(path.read_text())["content"] for path in first}, first)
        connection.execute("update ir_module set state = 'to remove'")
        connection.commit()
        self.check()
        self.assertNotEqual({path: json.loads(path.read_text())["content"] for path in first}, first)
        connection.close()


class KeepingOnWordPress(WordPressCase):
    def test_what_is_kept_is_taken_by_the_next_check(self):
        #  the host's own files are links to ones that other sites have as well, and change with each new link
        for folder in ("wp-admin", "wp-includes"):
            shutil.copytree(self.site / folder, self.site / f"{folder}-own")
            shutil.rmtree(self.site / folder)
            (self.site / f"{folder}-own").rename(self.site / folder)
        (self.site / "wp-content/plugins/tide-notes").mkdir()
        self.write(
            f"{self.site.name}/wp-content/plugins/tide-notes/tide-notes.php",
            "<?php\n/* Plugin Name: Tide notes */\nreturn;;\n",
        )
        time.sleep(SETTLED_SECONDS)
        cache = self.folder / "cache"
        for words in (("--static",), ()):
            with self.subTest(words):
                shutil.rmtree(cache, ignore_errors=True)
                told: list[dict[str, str]] = []
                for _ in range(2):
                    with (self.site / "wp-content/debug.log").open("a") as log:
                        log.write("the tide gauge is late\n")
                    self.sprout("check", *words, "tide-notes", XDG_CACHE_HOME=str(cache))
                    kept = (cache / "swift-sprout/checks").glob("*/result.json")
                    told.append({path.parent.name: json.loads(path.read_text())["content"] for path in kept})
                self.assertEqual(len(told[0]), 1)
                self.assertEqual(told[0], told[1])
