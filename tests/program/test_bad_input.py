"""Whatever is typed: one clear error with a remedy, the exit status of the design, and nothing changed."""

import os
import shutil
import socket
import subprocess
import sys
import tempfile
import unittest

from ..support import DJANGO, Case, SiteCase, sprout, tree_of


class Names(SiteCase):
    def refuse(self, *words: str, status: int = 2) -> str:
        before = tree_of(self.site)
        ran = self.assert_ok(self.sprout(*words), status)
        self.assertEqual(tree_of(self.site), before)
        self.assertRegex(ran.err, r"\[[a-z-]+\]")
        self.assertIn("remedy:", ran.err)
        self.assertEqual(ran.out, "")
        return ran.err

    def test_names_that_cannot_be(self):
        for name, code in {
            "  ": "name-empty",
            "class": "name-taken",
            "match": "name-taken",
            "json": "name-taken",
            "print": "name-taken",
            "admin": "name-taken",
            "django": "name-taken",
            "sqlparse": "name-taken",
            "brindle_quay": "name-taken",
            "Приливы": "name-not-latin",
            "潮汐板": "name-not-latin",
            "🌊": "name-not-latin",
            "x" * 300: "name-too-long",
            "y" * 90: "name-too-long",
            "7 seas": "name-starts-with-digit",
            "tide\x07board": "name-control-character",
        }.items():
            with self.subTest(name=name):
                self.assertIn(f"[{code}]", self.refuse("new", name))

    def test_a_name_that_is_there_is_refused_not_overwritten(self):
        self.assertIn("[name-taken]", self.refuse("new", "Ferries", status=4))
        self.put("tide_board/notes.txt", "mine")
        self.assertIn("[folder-taken]", self.refuse("new", "Tide board", status=4))

    def test_an_address_that_is_taken_is_refused(self):
        error = self.refuse("new", "Boats", "--page", "/ferries", status=4)
        self.assertIn("[address-taken]", error)
        self.assertIn("ferries.views.Timetable", error)

    def test_titles_may_hold_anything(self):
        title = 'Harbour\'s "{{ tide }}" {% now %} <b> 潮 %(x)s \\n'
        made = self.assert_ok(
            self.sprout("new", title, "--internal", "odd_board", "--summary", title, "--author", title)
        )
        self.assertIn("odd_board/", made.out)
        self.assert_ok(self.sprout("enable", "odd_board"))
        checked = self.assert_ok(self.sprout("check", "odd_board", "--format", "json"))
        self.assertEqual(checked.json["summary"]["findings"], 0)
        self.assertEqual(checked.json["setups"][0]["modules"][0]["title"], title)

    def test_arguments(self):
        self.assertIn("options-missing", self.refuse("new"))
        self.assertIn("nearest known: survey".lower(), sprout("surwey").err.lower())
        self.assertIn("field-type", self.refuse("new", "Tides", "--record", "Tide: station txt(80)"))
        self.assertIn("record-empty", self.refuse("new", "Tides", "--record", "Tide:"))
        self.assertIn("field-default", self.refuse("new", "Tides", "--record", "Tide: level integer, default high"))
        self.assertIn("page-path", self.refuse("new", "Tides", "--page", "/Tides Today"))
        self.assertIn("name-reserved", self.refuse("new", "Tides", "--record", "Tide: objects text(8)"))
        self.assertIn("options-contradict", self.refuse("new", "Tides", "--record", "Tide: berth -> Berth"))
        self.assertIn("place-unknown", self.refuse("new", "Tides", "--in", "nowhere"))
        self.assertIn("module-unknown", self.refuse("check", "ferrys"))
        self.assertIn("arguments", self.refuse("check", "--time-limit", "soon"))


class Briefs(SiteCase):
    def read(self, text: str) -> str:
        path = self.write("brief.toml", text)
        before = tree_of(self.site)
        ran = self.assert_ok(self.sprout("new", "--brief", path), 2)
        self.assertEqual(tree_of(self.site), before)
        return ran.err

    def test_every_problem_with_its_line_and_the_nearest_key(self):
        error = self.read(
            '[module]\nname = "Tides"\nsumary = "x"\nversion = 3\n\n[[record]]\nname = "Tide"\n'
            'fields = ["station: txt(4)"]\n\n[[recrod]]\nname = "x"\n'
        )
        for wanted in (
            "brief.toml:3: unknown key 'sumary'",
            "summary",
            "brief.toml:4: version must be text",
            "brief.toml:8:",
            "brief.toml:10: unknown part 'recrod'",
            "record",
        ):
            self.assertIn(wanted, " ".join(error.split()))

    def test_contradictions(self):
        error = self.read(
            '[module]\nname = "Tides"\n[[record]]\nname = "Tide"\nfields = ["a: date", "a: date", "b -> Berth"]\n'
            '[[record]]\nname = "tide"\nfields = ["a: date"]\n[[page]]\npath = "/t"\nshows = "Tied"\n'
        )
        for wanted in ("twice", "'Berth'", "brief.toml:7: the record", "brief.toml:11:", "Tide"):
            self.assertIn(wanted, error)

    def test_broken_toml_names_the_line(self):
        self.assertIn("brief.toml:3: this is not TOML", self.read('[module]\nname = "Tides"\nversion = \n'))

    def test_a_brief_that_is_not_there(self):
        ran = self.assert_ok(self.sprout("new", "--brief", "nowhere.toml"), 2)
        self.assertIn("no such file", ran.err)


class Hosts(SiteCase):
    def test_no_host(self):
        empty = self.folder / "empty"
        empty.mkdir()
        ran = self.assert_ok(sprout("survey", "--host", empty), 2)
        self.assertIn("[no-host]", ran.err)
        other = self.folder / "other"
        shutil.copytree(self.site, other)
        ran = self.assert_ok(sprout("survey", "--host", self.folder), 2)
        self.assertIn("[hosts-several]", ran.err)
        self.assertIn("--host other", ran.err)
        self.assertIn("[path-absent]", sprout("survey", "--host", self.folder / "nowhere").err)
        self.assertIn("[kit-unknown]", sprout("survey", "--host", self.site, "--kit", "djanjo").err)

    def test_no_interpreter(self):
        ran = self.assert_ok(sprout("check", "ferries", "--host", self.site), 3)
        self.assertIn("there is no interpreter", ran.out)
        self.assertIn("--runtime", ran.out)
        ran = self.assert_ok(sprout("settle", "--host", self.site), 3)
        self.assertIn("[no-interpreter]", ran.err)
        ran = self.assert_ok(sprout("settle", "--host", self.site, "--runtime", "/nowhere/python"), 2)
        self.assertIn("[python-not-found]", ran.err)
        ran = self.assert_ok(sprout("survey", "--host", self.site), 1)
        self.assertIn("no interpreter with Django", ran.out)

    def test_interpreter_beside_the_entry_script_and_active_environment(self):
        prefix = DJANGO.parent.parent
        os.symlink(prefix, self.site / ".venv")
        ran = self.assert_ok(sprout("survey", "--host", self.site))
        self.assertIn(".venv beside the entry script", ran.out)
        ran = self.assert_ok(sprout("survey", "--host", self.site, VIRTUAL_ENV=str(prefix)))
        self.assertIn("active environment", ran.out)

    def test_settings_that_need_a_secret(self):
        self.change(
            "brindle_quay/settings.py", 'SECRET_KEY = "', 'import os\nKEY = os.environ["QUAY_SECRET"]\nSECRET_KEY = "'
        )
        ran = self.assert_ok(self.sprout("check", "ferries"), 3)
        self.assertIn("QUAY_SECRET", ran.out)
        self.assertIn("brindle_quay/settings.py:8", ran.out)
        self.assert_ok(self.sprout("check", "ferries", QUAY_SECRET="x"))

    def test_settings_that_import_what_is_not_installed(self):
        self.change("brindle_quay/settings.py", "from pathlib", "import quay_tools\nfrom pathlib")
        ran = self.assert_ok(self.sprout("check"), 3)
        self.assertIn("Install quay_tools", ran.out)

    def test_a_host_that_hangs_ends_itself_or_prints_megabytes(self):
        self.put("ferries/__init__.py", "import time\ntime.sleep(60)\n")
        ran = self.assert_ok(self.sprout("check", "ferries", "--time-limit", "3"), 3)
        self.assertIn("while it loads its apps", ran.out)
        self.put("ferries/__init__.py", "import os\nos._exit(0)\n")
        self.assertIn("while it loads its apps", self.assert_ok(self.sprout("check", "ferries"), 3).out)
        self.put("ferries/__init__.py", "import sys\nsys.exit(0)\n")
        self.assertIn("ferries/__init__.py:2", self.assert_ok(self.sprout("check", "ferries"), 1).out)
        self.put("ferries/__init__.py", "print('tide ' * 2_000_000)\n")
        self.assert_ok(self.sprout("check", "ferries"))

    def test_port_in_use(self):
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            ran = self.assert_ok(self.sprout("serve", "--port", str(taken.getsockname()[1])), 2)
        self.assertIn("[port-taken]", ran.err)

    def test_errors_are_documents_where_json_is_asked_for(self):
        empty = self.folder / "empty"
        empty.mkdir()
        ran = self.assert_ok(sprout("survey", "--host", empty, "--format", "json"), 2)
        self.assertEqual((ran.json["format"], ran.json["code"]), ("swift-sprout/error/1", "no-host"))


class Disks(Case):
    def test_no_right_to_write(self):
        site = self.write("site/manage.py", 'import os\nos.environ.setdefault("DJANGO_SETTINGS_MODULE", "s")\n').parent
        os.chmod(site, 0o555)
        os.chmod(self.folder, 0o755)
        self.addCleanup(os.chmod, site, 0o755)
        command = [sprout_python(), "-m", "swift_sprout", "new", "Tide board", "--host", str(site)]
        ran = as_nobody(command) if os.geteuid() == 0 else subprocess.run(command, capture_output=True, text=True)
        self.assertEqual(ran.returncode, 4, ran.stderr)
        self.assertIn("[cannot-write]", ran.stderr)

    @unittest.skipUnless(os.geteuid() == 0, "only root can mount a small disk")
    def test_full_disk(self):
        disk = self.folder / "disk"
        disk.mkdir()
        mounted = subprocess.run(["mount", "-t", "tmpfs", "-o", "size=48k", "tmpfs", str(disk)], capture_output=True)
        if mounted.returncode:
            self.skipTest("no right to mount a small disk; the journal's tests make every write fail instead")
        self.addCleanup(subprocess.run, ["umount", str(disk)], check=True)
        (disk / "manage.py").write_text('import os\nos.environ.setdefault("DJANGO_SETTINGS_MODULE", "s")\n')
        ran = self.assert_ok(sprout("new", "Tide board", "--record", "Tide: station text(8)", "--host", disk), 4)
        self.assertIn("no space left", ran.err)
        self.assertEqual(list(tree_of(disk)), ["manage.py"])


def sprout_python() -> str:
    return sys.executable


def as_nobody(command: list[str]) -> subprocess.CompletedProcess[str]:
    """Run a command as a user without rights: what it imports is imported before the rights are given up."""
    modules = "cli.main cli.ending cli.hints cli.configuration cli.commands.new disk.journal running.scratch running.keeper hosts.kits.django.kit hosts.kits.django.host hosts.kits.django.composing.module reports.text"
    preload = ", ".join(f"swift_sprout.{name}" for name in modules.split())
    script = (
        "import os, sys, gc, locale, gettext, difflib, textwrap, shutil, hashlib, fcntl, tomli_w, pystache, platform, ipaddress, importlib.util, glob, signal, secrets, json, tempfile\n"
        f"import swift_sprout.hosts.shared.rendering, {preload}\n"
        "os.setgid(65534); os.setuid(65534)\n"
        "from swift_sprout.__main__ import run; run()\n"
    )
    with tempfile.TemporaryDirectory() as state:
        os.chown(state, 65534, 65534)
        environment = {**os.environ, "SWIFT_SPROUT_STATE": state}
        words = [command[0], "-c", script, *command[3:]]
        return subprocess.run(words, capture_output=True, text=True, env=environment)
