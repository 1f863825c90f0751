"""Several runs at once, runs that are killed, and files that others save meanwhile: nothing torn, nothing lost."""

import os
import signal
import subprocess
import sys
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from swift_sprout.running.loopback import free_port, get, wait_until_answering

from ..support import BRIEFS, DJANGO, Ran, SiteCase, can_be_interrupted, host_python, sprout, tree_of

REGISTER = str(BRIEFS / "berth_register.toml")
TIDE_BOARD = BRIEFS / "tide_board.toml"


class AtOnce(SiteCase):
    def test_several_modules_made_at_once(self):
        names = [f"Beacon {word}" for word in ("north", "south", "east", "west", "mole", "bar")]
        with ThreadPoolExecutor(6) as pool:
            rans: list[Ran] = list(pool.map(lambda name: self.sprout("new", name), names))
        for ran in rans:
            self.assert_ok(ran)
        for name in names:
            self.assertTrue((self.site / name.lower().replace(" ", "_") / "apps.py").exists(), name)
        for _ in names:
            self.assert_ok(self.sprout("undo"))
        self.assertIn("nothing-to-undo", self.assert_ok(self.sprout("undo"), 4).err)
        self.assertEqual([path for path in tree_of(self.site) if path.startswith("beacon")], [])

    def test_several_modules_enabled_at_once_lose_no_entry(self):
        names = [f"beacon_{word}" for word in ("north", "south", "east")]
        for name in names:
            self.assert_ok(self.sprout("new", name))
        with ThreadPoolExecutor(3) as pool:
            for ran in pool.map(lambda name: self.sprout("enable", name), names):
                self.assert_ok(ran)
        settings = (self.site / "brindle_quay/settings.py").read_text()
        urls = (self.site / "brindle_quay/urls.py").read_text()
        for name in names:
            self.assertEqual((settings.count(f'"{name}"'), urls.count(f'"{name}.urls"')), (1, 1))
        ran = self.assert_ok(self.sprout("check", *names, "--format", "json"))
        self.assertEqual(ran.json["summary"]["served"], 3)

    def test_a_run_that_cannot_wait_says_who_is_writing(self):
        code = (
            "import time\nfrom pathlib import Path\nfrom swift_sprout.disk.journal import Journal\n"
            f"with Journal(Path({str(self.site)!r})).writing('enable tide_board'):\n"
            "    print('held', flush=True)\n    time.sleep(30)\n"
        )
        holder = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE)
        assert holder.stdout is not None
        self.addCleanup(holder.stdout.close)
        self.addCleanup(holder.wait)
        self.addCleanup(holder.kill)
        holder.stdout.readline()
        ran = self.assert_ok(self.sprout("new", "Signal mast", "--wait", "0.3"), 4)
        self.assertIn("host-busy", ran.err)
        self.assertIn("enable tide_board", ran.err)
        self.assertFalse((self.site / "signal_mast").exists())


class Killed(SiteCase):
    def start(self, *words: str) -> subprocess.Popen[bytes]:
        command = [sys.executable, "-m", "swift_sprout", *words, "--host", str(self.site)]
        python = [] if words[0] == "undo" else ["--runtime", str(DJANGO)]
        whole = [*command, *python]
        away = subprocess.DEVNULL
        return subprocess.Popen(whole, stdout=away, stderr=away, preexec_fn=can_be_interrupted)

    def kill_at(self, seconds: float, *words: str) -> None:
        process = self.start(*words)
        time.sleep(seconds)
        process.send_signal(signal.SIGKILL)
        process.wait()

    def take_back(self) -> None:
        """Take back what is half-written, where the next command says that something is."""
        if "half-written" in self.assert_ok(self.sprout("survey", "--static")).err:
            self.assert_ok(self.sprout("undo"))

    def plain(self) -> dict[str, bytes]:
        tree = tree_of(self.site)
        tree.pop("brindle_quay.sqlite3", None)
        return tree

    def test_new_killed_at_many_moments_is_all_there_or_not_at_all(self):
        before = self.plain()
        self.assert_ok(self.sprout("new", "--brief", TIDE_BOARD))
        after = self.plain()
        self.assert_ok(self.sprout("undo"))
        for step in range(14):
            self.kill_at(0.05 + 0.012 * step, "new", "--brief", str(TIDE_BOARD))
            self.take_back()
            now = self.plain()
            self.assertIn(now, (before, after), step)
            if now == after:
                self.assert_ok(self.sprout("undo"))

    def killed_all_over(self, *words: str) -> None:
        """Kill a command at many moments: the next run finds the tree as before it or as after it, never between."""
        before = self.plain()
        self.assert_ok(self.sprout(*words))
        after = self.plain()
        self.assertNotEqual(before, after)
        self.assert_ok(self.sprout("undo"))
        self.assertEqual(self.plain(), before)
        seen = set()
        for step in range(14):
            self.kill_at(0.1 + 0.025 * step, *words)
            self.take_back()
            now = self.plain()
            self.assertIn(now, (before, after), (words, step))
            seen.add(now == after)
            if now == after:
                self.assert_ok(self.sprout("undo"))
                self.assertEqual(self.plain(), before)

    def test_add_killed_at_many_moments(self):
        self.assert_ok(self.sprout("new", "--brief", REGISTER))
        self.killed_all_over("add", "record", "Buoy: name text(20), berth -> Berth (buoys)", "--to", "berth_register")

    def test_refresh_killed_at_many_moments(self):
        self.assert_ok(self.sprout("new", "--brief", REGISTER))
        self.change(
            "berth_register/sprout.toml", '"vessel: text(60)"', '"vessel: text(70)", "crew: integer, default 1"'
        )
        self.change("berth_register/models.py", "class Booking(", "# mine\nclass Booking(")
        self.killed_all_over("refresh", "berth_register")

    def test_remove_killed_at_many_moments(self):
        self.assert_ok(self.sprout("new", "--brief", REGISTER))
        self.assert_ok(self.sprout("enable", "berth_register"))
        self.killed_all_over("remove", "berth_register", "--data", "keep")
        self.assert_ok(self.sprout("check", "berth_register"))

    def test_enable_killed_at_many_moments_leaves_a_host_that_starts(self):
        self.assert_ok(self.sprout("new", "--brief", TIDE_BOARD))
        before = self.plain()
        for step in range(10):
            self.kill_at(0.06 + 0.04 * step, "enable", "tide_board")
            self.take_back()
            done = host_python("manage.py", "check", cwd=self.site)
            self.assertEqual(done.returncode, 0, done.stderr)
            if self.plain() != before:
                self.assert_ok(self.sprout("undo"))
            self.assertEqual(self.plain(), before, step)

    def test_interrupting_says_so_and_ends_with_130(self):
        hangs = self.folder / "hangs"
        self.put("ferries/__init__.py", f"import time\nopen({str(hangs)!r}, 'w').close()\ntime.sleep(20)\n")
        process = self.start("check", "ferries")
        deadline = time.monotonic() + 60
        while not hangs.exists() and time.monotonic() < deadline:
            time.sleep(0.05)
        process.send_signal(signal.SIGINT)
        self.assertEqual(process.wait(15), 130)
        left = subprocess.run(["pgrep", "-f", str(self.site)], capture_output=True, text=True).stdout
        self.assertEqual(left, "")


class PartsAtOnce(SiteCase):
    def test_parts_added_by_several_runs_at_once_are_all_there(self):
        """Each waits for the others, and works on what they left."""
        self.assert_ok(self.sprout("new", "--brief", REGISTER))
        lines = [f"Buoy {word}: name text(20)" for word in ("north", "south", "mole", "bar")]
        command = [sys.executable, "-m", "swift_sprout", "add", "record"]
        where = ["--to", "berth_register", "--host", str(self.site), "-q"]
        running = [
            subprocess.Popen([*command, line, *where], stdout=subprocess.DEVNULL, stderr=subprocess.PIPE)
            for line in lines
        ]
        for process in running:
            _, told = process.communicate(timeout=60)
            self.assertEqual(process.returncode, 0, told)
        brief = (self.site / "berth_register/sprout.toml").read_text()
        models = (self.site / "berth_register/models.py").read_text()
        for word in ("north", "south", "mole", "bar"):
            self.assertIn(f'name = "Buoy {word}"', brief)
            self.assertIn(f"class Buoy{word.capitalize()}(models.Model):", models)
        migrations = sorted(path.name for path in (self.site / "berth_register/migrations").glob("00*.py"))
        self.assertEqual([name[:4] for name in migrations], ["0001", "0002", "0003", "0004", "0005"])
        self.assert_ok(self.sprout("enable", "berth_register"))
        self.assert_ok(self.sprout("check", "berth_register"))

    def test_an_edit_saved_while_a_part_is_added_is_never_lost(self):
        self.assert_ok(self.sprout("new", "--brief", REGISTER))
        models = self.site / "berth_register/models.py"
        command = [sys.executable, "-m", "swift_sprout", "add", "record"]
        where = ["--to", "berth_register", "--host", str(self.site), "-q"]
        for step in range(6):
            process = subprocess.Popen(
                [*command, f"Buoy {'abcdef'[step]}: name text(20)", *where],
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
            )
            time.sleep(0.08 + 0.03 * step)
            text = models.read_text() + f"\n# saved meanwhile {step}\n"
            models.with_suffix(".part").write_text(text)
            models.with_suffix(".part").replace(models)
            self.assertIn(process.wait(30), (0, 4))
            now = models.read_text()
            self.assertIn(f"# saved meanwhile {step}\n", now)


class HostRunning(SiteCase):
    def test_a_running_host_answers_and_reads_whole_files_while_it_is_written_to(self):
        """A server goes on answering, and whoever reads a file at any moment reads one that parses."""
        port = free_port()
        words = [str(DJANGO), "manage.py", "runserver", "--noreload", f"127.0.0.1:{port}"]
        server = subprocess.Popen(words, cwd=self.site, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        self.addCleanup(server.wait)
        self.addCleanup(server.kill)
        self.assertTrue(wait_until_answering(port, 20))
        done, torn, answers = threading.Event(), [], []

        def read_on() -> None:
            paths = [self.site / "brindle_quay" / name for name in ("settings.py", "urls.py")]
            while not done.is_set():
                for path in paths:
                    try:
                        compile(path.read_text("utf-8"), str(path), "exec")
                    except (OSError, SyntaxError) as error:
                        torn.append(repr(error))

        def ask_on() -> None:
            while not done.is_set():
                answers.append(get(port, "/ferries/", {}, 10).status)

        threads = [threading.Thread(target=work) for work in (read_on, ask_on)]
        for thread in threads:
            thread.start()
        try:
            for name in ("north", "south"):
                self.assert_ok(self.sprout("new", "--internal", f"beacon_{name}", f"Beacon {name}"))
                self.assert_ok(self.sprout("enable", f"beacon_{name}"))
                self.assert_ok(self.sprout("add", "record", "Lamp: colour text(20)", "--to", f"beacon_{name}"))
                self.assert_ok(self.sprout("settle", f"beacon_{name}"))
            for _ in range(6):
                self.sprout("undo")
        finally:
            done.set()
            for thread in threads:
                thread.join()
        self.assertEqual(torn, [])
        self.assertGreater(len(answers), 20)
        self.assertEqual(set(answers), {200})


class SavedMeanwhile(SiteCase):
    def test_an_edit_that_was_made_between_reading_and_writing_is_kept(self):
        """The change set is worked out, then somebody saves the file, then it is applied: refused, and theirs stays."""
        from swift_sprout.actions.hosting import HostChoice, open_host
        from swift_sprout.core.errors import Refused

        opened = open_host(HostChoice(str(self.site), "django", str(DJANGO)))
        self.assert_ok(self.sprout("disable", "ferries"))
        edit = opened.host.switch_on("ferries", "ferries")
        settings = self.site / "brindle_quay/settings.py"
        settings.write_text(settings.read_text() + "# the harbour master was here\n")
        before = tree_of(self.site)
        with self.assertRaises(Refused), opened.journal.writing("enable"):
            opened.journal.apply(edit.changes)
        self.assertEqual(tree_of(self.site), before)

    def test_undo_after_later_work_names_the_file_and_changes_nothing(self):
        self.assert_ok(self.sprout("disable", "ferries"))
        settings = self.site / "brindle_quay/settings.py"
        settings.write_text(settings.read_text() + "# later work\n")
        before = tree_of(self.site)
        ran = self.assert_ok(self.sprout("undo"), 4)
        self.assertIn("brindle_quay/settings.py", ran.err)
        self.assertEqual(tree_of(self.site), before)

    def test_a_link_in_place_of_a_settings_file_is_not_followed(self):
        real = self.folder / "shared_settings.py"
        path = self.site / "brindle_quay/settings.py"
        real.write_bytes(path.read_bytes())
        path.unlink()
        path.symlink_to(real)
        self.assert_ok(self.sprout("new", "Signal mast"))
        before = real.read_bytes()
        ran = self.assert_ok(self.sprout("enable", "signal_mast"), 4)
        self.assertEqual(real.read_bytes(), before)
        self.assertTrue(path.is_symlink(), ran.err)


class OtherKits(SiteCase):
    def test_a_kit_from_an_installed_package_is_known(self):
        """A package that names the entry point brings a host kind; nothing of ours is touched for it."""
        site = self.folder / "packages"
        (site / "quay_kit").mkdir(parents=True)
        (site / "quay_kit/kit.toml").write_text(
            'format = "swift-sprout/kit/1"\nid = "quay"\ntitle = "Quay boards"\nsort = "notice boards"\n'
            'checked = ["1.0"]\nworks = ">=1"\nneeds = ["a board"]\n\n[recognise]\nfile = "board.txt"\n\n[parts]\npage = "a notice"\n\n[rungs]\n'
            '[naming]\npattern = "[a-z]+"\nlongest = 9\nspelling = "snake"\n[[file]]\ntemplate = "x"\nwrites = "x"\nwhy = "x"\n'
        )
        (site / "quay_kit/rules.toml").write_text("")
        (site / "quay_kit/__init__.py").write_text(
            "from pathlib import Path\nfrom swift_sprout.hosts.contract.kitdata import load_kit_data\n\n\nclass Kit:\n"
            "    data = load_kit_data(Path(__file__).parent)\n\n    def recognises(self, folder):\n"
            "        return (folder / 'board.txt').exists()\n\n\nKIT = Kit()\n"
        )
        meta = site / "quay_kit-1.0.dist-info"
        meta.mkdir()
        (meta / "METADATA").write_text("Metadata-Version: 2.1\nName: quay-kit\nVersion: 1.0\n")
        (meta / "entry_points.txt").write_text("[swift_sprout.kits]\nquay = quay_kit:KIT\n")
        ran = self.assert_ok(sprout("kits", "--format", "json", PYTHONPATH=str(site)))
        self.assertEqual(
            [kit["kit"] for kit in ran.json["kits"]],
            ["django", "flask", "oscar", "trytond", "wagtail", "wordpress", "quay"],
        )
        self.assertEqual(
            [kit["kit"] for kit in sprout("kits", "--format", "json").json["kits"]],
            ["django", "flask", "oscar", "trytond", "wagtail", "wordpress"],
        )
        ran = sprout("survey", "--host", Path("/"), "--kit", "quai", PYTHONPATH=str(site))
        self.assertIn("Nearest known: quay", ran.err)
        for place, old, new, said in (
            ("kit.toml", "longest = 9", "longer = 9", "naming.longer: unknown key"),
            ("rules.toml", "", '["fuond.x"]\ncause = "c"\neffect = "e"\nmend = "m"\n', "no rung is named 'fuond'"),
            ("__init__.py", "KIT = Kit()", "KIT = Kite()", "NameError"),
        ):
            with self.subTest(place):
                path = site / "quay_kit" / place
                before = path.read_text()
                path.write_text(before.replace(old, new) if old else new)
                told = self.assert_ok(sprout("kits", "--format", "json", PYTHONPATH=str(site))).json
                self.assertEqual(len(told["kits"]), 6)
                self.assertEqual([one["kit"] for one in told["unusable"]], ["quay"])
                self.assertIn(said, told["unusable"][0]["reason"])
                self.assertIn("cannot be used", sprout("kits", PYTHONPATH=str(site)).out)
                self.assert_ok(sprout("graph", "--host", self.site, PYTHONPATH=str(site)))
                ran = self.assert_ok(sprout("survey", "--host", self.site, "--kit", "quay", PYTHONPATH=str(site)), 2)
                self.assertIn(said, ran.err)
                path.write_text(before)


class Registrations(SiteCase):
    """More forms of the root addresses, each switched off and on again."""

    def forms(self, text: str, *wanted: str) -> None:
        self.put("brindle_quay/urls.py", text)
        self.assert_ok(self.sprout("check", "ferries"))
        self.assert_ok(self.sprout("disable", "ferries"))
        off = (self.site / "brindle_quay/urls.py").read_text()
        self.assertNotIn("ferries", off)
        self.assert_ok(self.sprout("enable", "ferries", "--at", "ferries/"))
        on = (self.site / "brindle_quay/urls.py").read_text()
        for piece in wanted:
            self.assertIn(piece, on)
        self.assert_ok(self.sprout("check", "ferries"))

    REST = 'path("", include("harbour_office.urls"))'

    def test_a_tuple(self):
        self.forms(
            "from django.contrib import admin\nfrom django.urls import include, path\n\nurlpatterns = (\n"
            f'    path("admin/", admin.site.urls),\n    path("ferries/", include("ferries.urls")),\n    {self.REST},\n)\n',
            'path("ferries/", include("ferries.urls"))',
        )

    def test_lists_put_together(self):
        self.forms(
            "from django.contrib import admin\nfrom django.urls import include, path\n\n"
            f'urlpatterns = [path("admin/", admin.site.urls), {self.REST}]\n'
            'urlpatterns += [path("ferries/", include("ferries.urls"))]\n',
        )

    def test_one_line_and_a_remark(self):
        self.forms(
            "from django.contrib import admin\nfrom django.urls import path, include  # both\n\n"
            f'urlpatterns = [path("admin/", admin.site.urls), path("ferries/", include("ferries.urls")), {self.REST}]  # all\n',
            "# both",
            "# all",
        )

    def test_the_include_is_imported_where_it_was_not(self):
        self.put(
            "brindle_quay/urls.py",
            "from django.contrib import admin\nfrom django.urls import path\n\nfrom harbour_office import views\n\n"
            'urlpatterns = [\n    path("admin/", admin.site.urls),\n    path("", views.front_page, name="front-page"),\n'
            '    path("notices/<int:pk>/", views.notice, name="notice"),\n]\n',
        )
        self.assert_ok(self.sprout("enable", "ferries"))
        self.assertIn("from django.urls import include, path", (self.site / "brindle_quay/urls.py").read_text())
        ran = self.assert_ok(self.sprout("check", "ferries", "--format", "json"))
        self.assertEqual(ran.json["setups"][0]["modules"][0]["addresses"], ["/ferries/"])

    def test_environment_of_the_program_does_not_leak(self):
        self.assertNotIn("SWIFT_SPROUT_TRACE", os.environ)
        ran = self.sprout("check", "ferries", DJANGO_SETTINGS_MODULE="nowhere.settings")
        self.assertEqual(ran.status, 3, ran.out)
        self.assertIn("nowhere", ran.out)
