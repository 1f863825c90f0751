"""What is wrong around modules: programs that are missing, a database that is down, archives, modules that break."""

import fcntl
import json
import os
import subprocess
import sys
import time
import zipfile
from pathlib import Path

from swift_sprout.hosts.kits.wordpress.database import own_server

from ...support import BRIEFS, WordPressCase, scratch_folders, sprout, tree_of, world_of


class Missing(WordPressCase):
    def only(self, *programs: str) -> str:
        """Return a path on which only these programs are found."""
        folder = self.folder / "programs"
        folder.mkdir(exist_ok=True)
        for name in programs:
            for place in ("/usr/bin", "/usr/sbin"):
                if Path(place, name).exists():
                    os.symlink(Path(place, name), folder / name)
        return str(folder)

    def test_without_php_files_are_checked_and_the_packages_are_named(self):
        path = self.only("env")
        self.put(f"{self.modules}/ferries/broken.php", "<?php\nfunction x( {\n")
        told = self.assert_ok(self.sprout("survey", PATH=path), 1)
        self.assertIn("no PHP", told.out)
        self.assertIn("php8.2-cli", told.out)
        live = self.sprout("check", PATH=path)
        self.assertEqual(live.status, 3, live.out)
        self.assertIn("php8.2-cli", live.out + live.err)
        static = self.assert_ok(self.sprout("check", "--static", "--format", "json", PATH=path), 1)
        self.assertEqual(self.codes(static, "ferries"), ["registered.syntax"])
        self.assertIn("php8.2-cli", self.assert_ok(self.sprout("enable", "ferries", PATH=path), 3).err)

    def test_a_check_of_files_runs_nothing(self):
        path = self.only("env", "mariadbd")
        marker = self.folder / "php-was-run"
        php = Path(path, "php")
        php.write_text(f"#!/bin/sh\n: > {marker}\n")
        php.chmod(0o755)
        self.assert_ok(self.sprout("check", "--static", PATH=f"{path}:/bin"))
        self.assertFalse(marker.exists())
        self.assertFalse((self.site / "database/users").exists())

    def test_a_runtime_that_is_no_php(self):
        ran = self.assert_ok(self.sprout("check", "--runtime", "/bin/true"), 3)
        self.assertIn("that is no PHP program", ran.out + ran.err)

    def test_without_mariadb_the_package_is_named(self):
        program = "swift_sprout.hosts.kits.wordpress.database.program"
        from unittest.mock import patch

        from swift_sprout.core.errors import HostFailed
        from swift_sprout.hosts.kits.wordpress import database

        with patch(program, side_effect=HostFailed("no-mariadb", "none", "mariadb-server-core")):
            server = database.own_server(self.site)
            assert server is not None
            with self.assertRaises(HostFailed):
                server.start(5)
        with patch("shutil.which", return_value=None), self.assertRaises(HostFailed) as caught:
            database.program()
        self.assertIn("mariadb-server-core", caught.exception.remedy)

    def test_a_database_that_is_down_or_another_one(self):
        self.change("wp-config.php", "'brindle_quay'", "'somewhere_else'")
        ran = self.assert_ok(self.sprout("check", "--format", "json"), 3)
        self.assertIn("cannot reach its database", ran.json["setups"][0]["failure"])
        static = self.assert_ok(self.sprout("check", "--static"))
        self.assertIn("3 modules", static.out)
        told = self.assert_ok(self.sprout("survey"))
        self.assertIn("The database does not answer", told.out)

    def test_a_database_whose_data_are_damaged(self):
        for file in (self.site / "database/data").glob("ib*"):
            file.write_bytes(b"not a database")
        ran = self.assert_ok(self.sprout("enable", "ferries"), 3)
        self.assertIn("database server does not start", ran.err)

    def test_no_configuration(self):
        (self.site / "wp-config.php").unlink()
        ran = self.assert_ok(self.sprout("enable", "ferries"), 3)
        self.assertIn("wp-config.php", ran.err)

    def test_a_version_outside_of_the_range_is_told(self):
        self.change("wp-includes/version.php", "$wp_version = '6.1", "$wp_version = '7.1")
        told = self.assert_ok(self.sprout("survey"))
        self.assertIn("outside the checked range", told.out)

    def change(self, path: str, old: str, new: str) -> None:
        """Change a file of the site; the host's own are linked, so that a new file takes their place."""
        target = self.site / path
        text = target.read_text("utf-8")
        self.assertIn(old, text)
        target.unlink()
        target.write_text(text.replace(old, new), "utf-8")


class Breaking(WordPressCase):
    def test_a_module_that_breaks_the_host_is_named_and_the_others_are_checked(self):
        main = f"{self.modules}/ferries/ferries.php"
        self.change(main, "add_action( 'init'", "no_such_function();\nadd_action( 'init'")
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "tide_board.toml", "-q"))
        ran = self.assert_ok(self.sprout("check", "--format", "json"), 1)
        self.assertEqual(self.codes(ran, "ferries"), ["registered.breaks-host"])
        self.assertEqual(self.codes(ran, "tide-board"), ["enabled.off"])
        self.assertIn("ferries breaks the host", " ".join(ran.json["setups"][0]["notes"]))
        refused = self.assert_ok(self.sprout("enable", "tide_board"), 3)
        self.assertIn("no_such_function", refused.err)
        self.assertIn("ferries.php", refused.err)

    def test_two_broken_modules_are_both_named(self):
        for name in ("ferries", "harbour-office"):
            self.change(
                f"{self.modules}/{name}/{name}.php", "defined( 'ABSPATH' ) || exit;", "throw new \\Exception( 'no' );"
            )
        ran = self.assert_ok(self.sprout("check", "--format", "json"), 1)
        for name in ("ferries", "harbour-office"):
            self.assertEqual(self.codes(ran, name), ["registered.breaks-host"])

    def test_a_module_that_breaks_only_when_it_is_switched_on(self):
        self.put(
            f"{self.modules}/lightship/lightship.php",
            "<?php\n/**\n * Plugin Name: Lightship\n * Version: 1.0\n */\n\n"
            "register_activation_hook( __FILE__, static function () {\n\tlight_up();\n} );\n",
        )
        ran = self.assert_ok(self.sprout("enable", "lightship"), 3)
        self.assertIn("light_up", ran.err)
        self.assertIn("lightship.php:8", ran.err)
        self.assert_ok(self.sprout("check", "ferries"))

    def test_a_module_that_switches_itself_off_again_is_not_said_to_be_on(self):
        text = (
            "<?php\n/* Plugin Name: Shy */\n"
            "add_action( 'activated_plugin', static fn() => deactivate_plugins( 'shy/shy.php' ) );\n"
        )
        self.put(f"{self.modules}/shy/shy.php", text)
        ran = self.assert_ok(self.sprout("enable", "shy"), 3)
        self.assertIn("[not-kept]", ran.err)

    def test_output_before_headers_is_told_when_it_is_switched_on(self):
        self.put(f"{self.modules}/foghorn/foghorn.php", "\n<?php\n/**\n * Plugin Name: Foghorn\n * Version: 1.0\n */\n")
        ran = self.assert_ok(self.sprout("check", "foghorn", "--static", "--format", "json"), 1)
        self.assertEqual(self.codes(ran, "foghorn"), ["registered.prints"])
        ran = self.sprout("enable", "foghorn")
        self.assertIn(ran.status, (0, 3), ran.err)
        self.assertNotIn("own-fault", ran.err)


class Archives(WordPressCase):
    def archive(self, name: str, *entries: tuple[str, str]) -> Path:
        path = self.folder / name
        with zipfile.ZipFile(path, "w") as held:
            for entry, text in entries:
                held.writestr(entry, text)
        return path

    def test_a_module_is_packed_installed_by_the_host_and_served(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "berth_register.toml", "-q"))
        self.assert_ok(self.sprout("enable", "berth_register", "-q"))
        self.assert_ok(self.sprout("settle", "berth_register", "--samples", "-q"))
        before = self.files()
        target = self.folder / "out/berths.zip"
        ran = self.assert_ok(self.sprout("pack", "berth_register", "--to", target, "--format", "json"))
        self.assertEqual(ran.json["module"], "berth-register")
        states = {step["state"] for step in ran.json["check"]["setups"][0]["modules"][0]["ladder"]}
        self.assertEqual(states, {"pass"})
        self.assertEqual(self.files(), before)
        self.assertEqual(self.in_host("echo count( BrindleQuay\\BerthRegister\\Records\\Berth::all() );"), "3")
        with zipfile.ZipFile(target) as held:
            names = held.namelist()
            packed = {name: held.read(name) for name in names}
        self.assertEqual({name.split("/")[0] for name in names}, {"berth-register"})
        self.assertFalse([name for name in names if "tests/" in name or name.endswith("sprout.made")])
        disk = tree_of(self.site / self.modules / "berth-register")
        self.assertEqual(
            {name: packed[f"berth-register/{name}"] for name in disk if f"berth-register/{name}" in packed},
            {
                name: content
                for name, content in disk.items()
                if not name.startswith("tests/") and name != "sprout.made"
            },
        )
        again = self.folder / "again.zip"
        self.assert_ok(self.sprout("pack", "berth_register", "--to", again, "--no-proof"))
        self.assertEqual(again.read_bytes(), target.read_bytes())
        self.assertIn(
            "Is there already", self.assert_ok(self.sprout("pack", "berth_register", "--to", again, "--no-proof")).out
        )
        again.write_text("my own notes")
        self.assert_ok(self.sprout("pack", "berth_register", "--to", again, "--no-proof"), 4)
        self.assertEqual(again.read_text(), "my own notes")

    def test_archives_that_are_not_safe_are_refused_and_nothing_is_unpacked(self):
        cases = {
            "climbs": ("archive-unsafe", [("tide/tide.php", "<?php"), ("tide/../../../evil.php", "<?php")]),
            "whole": ("archive-unsafe", [("/etc/cron.d/tide", "x")]),
            "backslashes": ("archive-unsafe", [("tide\\..\\evil.php", "x")]),
            "twice": ("archive-unsafe", [("tide/a.php", "x"), ("tide/A.php", "y")]),
            "flat": ("archive-without-folder", [("tide.php", "<?php\n/* Plugin Name: Tide */")]),
            "two": ("archive-without-folder", [("tide/tide.php", "x"), ("other/x.php", "y")]),
            "none": ("archive-refused", [("tide/readme.txt", "hello")]),
        }
        before = self.files()
        for name, (code, entries) in cases.items():
            with self.subTest(name):
                ran = self.sprout("prove", self.archive(f"{name}.zip", *entries))
                self.assertIn(ran.status, (2, 3))
                self.assertIn(f"[{code}]", ran.err)
        link = zipfile.ZipInfo("tide/link")
        link.external_attr = 0o120777 << 16
        with zipfile.ZipFile(self.folder / "link.zip", "w") as held:
            held.writestr(link, "/etc/passwd")
        self.assertIn("[archive-unsafe]", self.assert_ok(self.sprout("prove", self.folder / "link.zip"), 2).err)
        (self.folder / "broken.zip").write_text("no archive")
        self.assertIn("[archive-damaged]", self.assert_ok(self.sprout("prove", self.folder / "broken.zip"), 2).err)
        self.assert_ok(self.sprout("prove", self.folder / "absent.zip"), 2)
        self.assertEqual(self.files(), before)

    def test_a_broken_module_in_an_archive_is_told(self):
        text = "<?php\n/**\n * Plugin Name: Tide\n * Version: 1.0\n */\nno_such_function();\n"
        ran = self.assert_ok(
            self.sprout("prove", self.archive("t.zip", ("tide/tide.php", text)), "--format", "json"), 1
        )
        self.assertIn("no_such_function", ran.json["steps"][-1]["reason"])

    def test_other_kinds_take_no_archives(self):
        self.write("django/manage.py", (world_of("django") / "manage.py").read_text())
        ran = sprout("prove", "x.zip", "--host", self.folder / "django")
        self.assertEqual(ran.status, 2)
        self.assertIn("[not-packed]", ran.err)


class Servers(WordPressCase):
    """The host's own database server: there while it is needed, and gone when the last one that uses it has gone."""

    def running(self) -> list[str]:
        found = []
        for place in Path("/proc").glob("[0-9]*/cmdline"):
            try:
                words = place.read_bytes().split(b"\0")
            except OSError:
                continue
            if words[0].endswith(b"mariadbd") and any(str(self.site).encode() in word for word in words):
                found.append(place.parent.name)
        return found

    def test_no_command_leaves_a_server_behind(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "tide_board.toml", "-q"))
        before = scratch_folders()
        for words in (
            ("enable", "tide_board"),
            ("survey",),
            ("check",),
            ("check", "--sandbox"),
            ("why", "tide_board"),
            ("settle",),
            ("check", "no_such_module"),
        ):
            self.sprout(*words)
            self.assertEqual(self.running(), [], words)
        self.assertEqual(scratch_folders() - before, set())

    def test_two_at_once_share_it_and_the_last_one_ends_it(self):
        words = [sys.executable, "-m", "swift_sprout", "check", "--host", str(self.site), "--format", "json"]
        both = [subprocess.Popen(words, stdout=subprocess.PIPE, stderr=subprocess.PIPE) for _ in range(3)]
        for one in both:
            out, err = one.communicate(timeout=60)
            self.assertEqual(one.returncode, 0, err)
            self.assertEqual(json.loads(out)["summary"]["findings"], 0)
        self.assertEqual(self.running(), [])

    def test_the_servers_of_a_run_that_was_killed_end_with_it(self):
        served = self.serving()
        self.assertEqual(len(self.running()), 1)
        self.kill(served)
        self.wait_until_gone()
        self.assert_ok(self.sprout("survey"))
        self.assertEqual(self.of_the_site(), [])

    def test_a_server_ends_with_a_killed_run_whose_lock_another_process_still_holds_for_a_moment(self):
        served = self.serving()
        server = own_server(self.site)
        assert server is not None
        with (server.runtime / "in-use").open() as held:
            fcntl.flock(held, fcntl.LOCK_SH)
            self.kill(served)
            time.sleep(1)
            self.assertEqual(len(self.running()), 1)
        self.wait_until_gone()

    def serving(self) -> subprocess.Popen[bytes]:
        words = [sys.executable, "-m", "swift_sprout", "serve", "--host", str(self.site)]
        served = subprocess.Popen(words, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, start_new_session=True)
        assert served.stdout is not None
        self.assertIn(b"Serving on", served.stdout.readline())
        return served

    def kill(self, served: subprocess.Popen[bytes]) -> None:
        served.kill()
        served.wait()
        assert served.stdout is not None
        served.stdout.close()

    def wait_until_gone(self) -> None:
        deadline = time.monotonic() + 60
        while self.of_the_site() and time.monotonic() < deadline:
            time.sleep(0.1)
        self.assertEqual(self.of_the_site(), [])

    def of_the_site(self) -> list[str]:
        """Return the processes that name the site on their command line: PHP's own server, and the database's."""
        found = []
        for place in Path("/proc").glob("[0-9]*/cmdline"):
            try:
                words = place.read_bytes()
                if str(self.site).encode() in words:
                    found.append(f"{place.parent.name}: {words.replace(bytes(1), b' ').decode()}")
            except OSError:
                continue
        return found

    def test_a_server_that_somebody_else_has_started_stays(self):
        server = own_server(self.site)
        assert server is not None
        with subprocess.Popen(server.command(), stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL) as other:
            for _ in range(500):
                if server.answers():
                    break
                time.sleep(0.02)
            self.assert_ok(self.sprout("check"))
            self.assertIsNone(other.poll())
            other.terminate()


class StaticRunsNothing(WordPressCase):
    """What files alone are to tell starts neither the host's PHP nor its database server."""

    def test_survey_graph_and_check_from_files_start_nothing(self):
        marker = self.folder / "ran"
        configuration = self.site / "wp-config.php"
        configuration.write_text(f"<?php file_put_contents('{marker}', 'x'); ?>" + configuration.read_text())
        options = self.site / "database/mariadb.cnf"
        options.write_text(f"{options.read_text()}\ninit-file={self.folder}/harm.sql\ngeneral-log-file={marker}\n")
        for words in (("survey", "--static"), ("graph",), ("check", "--static"), ("graph", "--format", "json")):
            ran = self.sprout(*words)
            self.assertIn(ran.status, (0, 1), ran.err)
            self.assertFalse(marker.exists(), words)
            self.assertFalse((self.site / "database/socket").exists(), words)
        self.assertIn("not asked", self.sprout("survey", "--static").out)
        self.assertIn("not asked", self.sprout("graph").out)

    def test_the_hosts_own_options_of_its_server_are_not_used(self):
        marker = self.folder / "log"
        options = self.site / "database/mariadb.cnf"
        options.write_text(f"{options.read_text()}\ngeneral-log=1\ngeneral-log-file={marker}\nport=3399\n")
        self.assert_ok(self.sprout("survey"))
        self.assertFalse(marker.exists())

    def test_a_process_number_in_the_hosts_folder_ends_nobody(self):
        bystander = subprocess.Popen([sys.executable, "-c", "import time; time.sleep(60)"])
        self.addCleanup(bystander.wait)
        self.addCleanup(bystander.kill)
        for name in ("server.pid", "started-for-a-command"):
            (self.site / "database" / name).write_text(f"{bystander.pid}\n")
        self.assert_ok(self.sprout("survey"))
        self.assertIsNone(bystander.poll())


class Places(WordPressCase):
    def test_an_area_that_no_page_draws_is_refused_by_add_and_new_with_those_that_are(self):
        footer = self.site / "wp-content/themes/quayside/footer.php"
        footer.write_text(footer.read_text().replace("<?php dynamic_sidebar( 'below' ); ?>", ""))
        brief = self.folder / "bell.toml"
        for place, code in (("below", "place-not-drawn"), ("belo", "place-unknown")):
            brief.write_text(
                f'[module]\nname = "Fog Bell"\n\n[[block]]\nname = "Bell now"\ntext = "Ding"\n\n'
                f'[[placement]]\nblock = "Bell now"\nplace = "{place}"\n'
            )
            ran = self.sprout("new", "--brief", brief)
            self.assertIn(code, ran.err)
            self.assertIn("Areas that pages draw: beside.", " ".join(ran.err.split()))
        self.assertFalse((self.site / self.modules / "fog-bell").exists())
        brief.write_text(brief.read_text().replace('"belo"', '"beside"'))
        self.assert_ok(self.sprout("new", "--brief", brief))
        ran = self.sprout("add", "placement", "Bell now, place below", "--to", "fog-bell")
        self.assertIn("place-not-drawn", ran.err)
        self.assert_ok(self.sprout("enable", "fog-bell"))
        told = self.assert_ok(self.sprout("why", "fog-bell", "Bell now"))
        self.assertIn("✓ pages draw that area", told.out)
        footer.write_text(footer.read_text().replace("<?php dynamic_sidebar( 'beside' ); ?>", ""))
        told = self.assert_ok(self.sprout("why", "fog-bell", "Bell now"), 1)
        self.assertIn("✗ pages draw that area", told.out)
