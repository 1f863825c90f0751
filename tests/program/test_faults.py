"""Every cause of the Django kit has a fault, and the check on a real host names that cause first, at the right file."""

import fnmatch
import re
import shutil
import subprocess
import tempfile
import unittest
from pathlib import Path

from benchmarks.faults import DATABASES, KITS, MODULE, build_healthy_host, judge_all, move_host, sql_runner
from benchmarks.places import INTERPRETERS

import swift_sprout
from swift_sprout.actions.hosting import HostChoice, open_host
from swift_sprout.hosts.kits.wordpress.database import own_server
from swift_sprout.hosts.registry import kit_named
from swift_sprout.hosts.shared.faults import apply_fault, load_faults

from ..support import DJANGO, Case, Ran, need_wordpress, sprout, tree_of

#  causes that a file alone cannot bring about; each has a test of its own, named here
ELSEWHERE = {
    "django": {
        "compatible.host-version": "tests of host versions below",
        "enabled.server-stale": "StaleServer below",
        "installed.database-absent": "Databases in test_check.py",
        "served.table-absent": "folded under installed.not-applied, which has a fault",
    },
    "trytond": {
        "served.stale": "a server older than the files, below",
        "enabled.not-loaded": "folded under what stops the module, which has faults",
    },
    "flask": {},
    "wagtail": {},
    "oscar": {},
    "wordpress": {"enabled.refused": "folded under compatible and described, which have faults"},
}
ENOUGH = {"django": 105, "trytond": 90, "flask": 18, "wordpress": 95, "wagtail": 34, "oscar": 49}


class Catalogue(unittest.TestCase):
    def test_every_rule_has_a_fault_or_a_test_of_its_own(self):
        for kit, elsewhere in ELSEWHERE.items():
            with self.subTest(kit):
                data = kit_named(kit).data
                below = {rule.code for rule in data.base.rules} if data.base is not None else set()
                codes = {rule.code for rule in data.rules} - below
                faults = {fault.code for fault in load_faults(KITS / kit / "faults", MODULE)}
                self.assertEqual(codes - faults - set(elsewhere), set())
                self.assertEqual(faults - codes - below, set())

    def test_what_a_rule_follows_from_exists(self):
        for kit in ELSEWHERE:
            codes = {rule.code for rule in kit_named(kit).data.rules}
            for rule in kit_named(kit).data.rules:
                for code in rule.follows:
                    self.assertTrue(fnmatch.filter(codes, code), f"{rule.code} follows {code}")
                for text in (rule.cause, rule.effect, rule.mend):
                    self.assertTrue(text.strip(), rule.code)


def program_without_sentences(folder: Path) -> Path:
    """Copy the program, and leave of the sentences of its rules but their values; returns where it is imported from."""
    copy = folder / "speechless"
    shutil.copytree(Path(swift_sprout.__file__).parent, copy / "swift_sprout")
    for path in copy.glob("swift_sprout/hosts/kits/*/rules.toml"):
        text = re.sub(r'(?m)^(cause|effect|mend) = "(.*)"$', _values_alone, path.read_text("utf-8"))
        path.write_text(text, "utf-8")
    return copy


def _values_alone(line: re.Match[str]) -> str:
    return f'{line[1]} = "~ {" ~ ".join(reversed(re.findall(r"{[^{}]+}", line[2])))}"'


class OnHost(Case):
    """Every fault of a kit on its real host; a kit is named by a class below."""

    kit = ""
    python: Path
    served = 4
    base: tempfile.TemporaryDirectory[str]
    healthy: Path

    @classmethod
    def setUpClass(cls) -> None:
        if not cls.kit:
            raise unittest.SkipTest("the cases of one kit stand below")
        cls.python = INTERPRETERS[cls.kit]
        if not cls.python.exists():
            raise RuntimeError(f"the {cls.kit} host is missing: run `make test`")
        cls.base = tempfile.TemporaryDirectory()
        cls.healthy = build_healthy_host(cls.kit, Path(cls.base.name).resolve())

    @classmethod
    def tearDownClass(cls) -> None:
        cls.base.cleanup()

    def is_database(self, path: str) -> bool:
        """True for a file in which the host itself keeps its state."""
        return path == DATABASES.get(self.kit)

    def stop_servers(self, site: Path) -> None:
        """End what a step of a fault has started."""

    @property
    def mendable(self) -> set[str]:
        return {rule.code for rule in kit_named(self.kit).data.rules if rule.mendable}

    def copy(self) -> Path:
        site = self.folder / "site"
        shutil.rmtree(site, ignore_errors=True)
        move_host(self.kit, self.healthy, site)
        return site

    def run_on(self, site: Path, *words: str, **environment: str) -> Ran:
        return sprout(*words, "--host", site, "--runtime", self.python, cwd=None, stdin=None, **environment)

    def test_a_healthy_module_has_no_finding(self):
        ran = self.assert_ok(self.run_on(self.healthy, "check", "--format", "json"))
        self.assertEqual(ran.json["summary"]["findings"], 0, ran.out)
        self.assertEqual(ran.json["summary"]["served"], self.served)  # of the demo host, and two that were added

    def test_every_fault_is_named_first(self):
        verdicts = list(judge_all(self.kit, [], self.healthy, from_files=False))
        self.assertGreaterEqual(len(verdicts), ENOUGH[self.kit])
        for verdict in verdicts:
            with self.subTest(verdict.code):
                self.assertTrue(verdict.live, f"not named; got {verdict.got}")
                self.assertTrue(verdict.first, f"not first; got {verdict.got}")

    def test_every_mend_mends(self):
        """Apply the fault, mend, check again: the finding is gone, and undoing brings the ill site back.

        The program that mends has no sentences in its rules, only their values: what it does rests on those alone.
        """
        speechless = {"PYTHONPATH": str(program_without_sentences(self.folder)), "XDG_CACHE_HOME": str(self.folder)}
        for fault in load_faults(KITS / self.kit / "faults", MODULE):
            if fault.code not in self.mendable:
                continue
            with self.subTest(fault.code):
                site = self.copy()
                apply_fault(fault, site, sql_runner(self.kit, site))
                self.stop_servers(site)
                ill = tree_of(site)
                preview = self.run_on(site, "check", "--mend", "--preview")
                self.assertNotIn("Traceback", preview.err)
                now = tree_of(site)
                differ = {path for path in {*now, *ill} if now.get(path) != ill.get(path)}
                self.assertEqual(
                    {path for path in differ if self.kit == "wordpress" and self.is_database(path)}, differ
                )
                ran = self.run_on(site, "check", "--mend", "--format", "json", **speechless)
                self.assertIn(fault.code, ran.json["mended"], ran.out + ran.err)
                findings = [
                    finding["code"]
                    for module in ran.json["after"]["setups"][0]["modules"]
                    for finding in module["findings"]
                ]
                self.assertNotIn(fault.code, findings)
                changed = {path for path, content in tree_of(site).items() if ill.get(path) != content}
                changed |= set(ill) - set(tree_of(site))
                named = {entry["path"] for entry in ran.json["files"]}
                self.assertEqual({path for path in changed if not self.is_database(path)}, named)
                while self.run_on(site, "undo").status == 0:
                    pass
                after = tree_of(site)
                differ = {path for path in {*after, *ill} if after.get(path) != ill.get(path)}
                self.assertEqual({path for path in differ if not self.is_database(path)}, set())


class Django(OnHost):
    kit = "django"

    def test_mendable_rules_are_those_that_have_a_mend(self):
        from swift_sprout.hosts.kits.django.mends import MENDS

        self.assertEqual(self.mendable, set(MENDS))

    def test_a_module_that_deletes_its_own_files_on_import(self):
        site = self.copy()
        (site / "pilotage/models.py").write_text(
            "import pathlib\nfrom django.db import models\n"
            "(pathlib.Path(__file__).parent / 'views.py').unlink(missing_ok=True)\n"
        )
        ran = self.run_on(site, "check", "pilotage")
        self.assertEqual(ran.status, 1)
        self.assertNotIn("own-fault", ran.err)

    def test_a_server_older_than_the_files(self):
        import os
        import subprocess
        import time

        site = self.copy()
        server = subprocess.Popen(
            [self.python, "manage.py", "runserver", "--noreload", "127.0.0.1:0"], cwd=site, stderr=-3, stdout=-3
        )
        self.addCleanup(server.wait)
        self.addCleanup(server.kill)
        time.sleep(1)
        self.assert_ok(self.run_on(site, "check", "pilotage", "--static"))
        later = time.time() + 5
        os.utime(site / "pilotage/views.py", (later, later))
        ran = self.assert_ok(self.run_on(site, "check", "pilotage", "--static"), 1)
        self.assertIn("enabled.server-stale", ran.out)
        self.assertIn(f"process {server.pid}", ran.out)

    def test_a_rule_is_silent_on_host_versions_that_it_does_not_hold_for(self):
        from swift_sprout.actions.checking import check

        site = self.copy()
        (site / "pilotage/admin.py").rename(site / "pilotage/admins.py")
        opened = open_host(HostChoice(str(site), "django", str(DJANGO)))
        self.assertEqual([one.code for one in check(opened, [], static=True).findings], ["enabled.file-misnamed"])
        rules = opened.kit.data.rules
        rules._rules["enabled.file-misnamed"] = rules["enabled.file-misnamed"]._replace(versions="<5.0")
        try:
            afresh = opened.host.check([], live=False)  # what was kept of the check before holds for rules as they are
            self.assertEqual([one.code for module in afresh.modules for one in module.findings], [])
        finally:
            rules._rules["enabled.file-misnamed"] = rules["enabled.file-misnamed"]._replace(versions="")

    def test_a_host_version_that_was_not_checked(self):
        choice = HostChoice(str(self.healthy), "django", str(DJANGO))
        host = open_host(choice).host
        host.view.version = "6.1.0"  # type: ignore[attr-defined]
        facts = host.facts(live=False)
        self.assertIn("outside the checked range", facts.notes[0])


class Flask(OnHost):
    kit = "flask"


class Trytond(OnHost):
    kit = "trytond"

    def test_a_server_older_than_the_files(self):
        import os
        import subprocess
        import time

        site = self.copy()
        program = self.python.parent / "trytond"
        server = subprocess.Popen(
            [program, "-c", "trytond.conf", "-d", "brindle_quay"],
            cwd=site,
            env={**os.environ, "PYTHONPATH": "modules"},
            stderr=-3,
        )
        self.addCleanup(server.wait)
        self.addCleanup(server.kill)
        time.sleep(1)
        self.assert_ok(self.run_on(site, "check", "pilotage", "--static"))
        later = time.time() + 5
        os.utime(site / "modules/pilotage/routes.py", (later, later))
        ran = self.run_on(site, "check", "pilotage", "--static")
        self.assertIn("served.stale", ran.out)
        self.assertIn(f"process {server.pid}", ran.out)

    def test_an_entity_is_never_resolved(self):
        site = self.copy()
        secret = self.folder / "secret.txt"
        secret.write_text("the harbour master's password")
        (site / "modules/pilotage/messages.xml").write_text(
            f'<?xml version="1.0"?><!DOCTYPE t [<!ENTITY x SYSTEM "file://{secret}">]><tryton><data>'
            '<record model="ir.message" id="msg_boat_unique"><field name="text">&x;</field></record></data></tryton>'
        )
        ran = self.assert_ok(self.run_on(site, "check", "pilotage", "--static", "--format", "json"), 1)
        self.assertIn("installed.entity", ran.out)
        self.assertNotIn("password", ran.out)

    def test_a_module_that_stops_the_host_is_named_and_the_others_are_checked(self):
        site = self.copy()
        (site / "modules/pilotage/pilot.py").write_text("raise SystemExit(7)\n")
        ran = self.run_on(site, "check", "--format", "json")
        modules = {one["module"]: one for one in ran.json["setups"][0]["modules"]}
        self.assertEqual(modules["ferries"]["ladder"][-1]["state"], "pass")
        self.assertEqual(modules["berth_register"]["ladder"][-1]["state"], "pass")
        self.assertNotEqual(modules["pilotage"]["findings"], [])
        self.assertEqual(modules["harbour_office"]["findings"], [])


class Wagtail(OnHost):
    kit = "wagtail"
    served = 5  # as on Django, and the front page in the tree

    @property
    def mendable(self) -> set[str]:
        return {"placed.page-absent"}


class Oscar(OnHost):
    kit = "oscar"
    served = 4  # the override has no page of its own

    @property
    def mendable(self) -> set[str]:
        return {"installed.shop-row-absent", "installed.attribute-absent"}


class WordPress(OnHost):
    kit = "wordpress"

    @classmethod
    def setUpClass(cls) -> None:
        need_wordpress()
        super().setUpClass()

    served = 3  # the harbour office has no page of its own here

    def is_database(self, path: str) -> bool:
        return path.startswith("database/") or path == "wp-content/debug.log"

    def stop_servers(self, site: Path) -> None:
        server = own_server(site)
        assert server is not None
        server.stop()

    def test_a_check_leaves_the_database_as_it_is(self):
        """What modules write while they are only asked is taken back, and nothing of it is kept."""
        site = self.copy()
        main = site / "wp-content/plugins/pilotage/pilotage.php"
        main.write_text(
            main.read_text()
            + "\nadd_action( 'init', static function () {\n\tglobal $wpdb;\n"
            + "\tupdate_option( 'pilotage_seen', uniqid() );\n"
            + '\t$wpdb->query( "CREATE TABLE {$wpdb->prefix}pilotage_seen (id int)" );\n} );\n'
        )
        run = sql_runner(self.kit, site)
        run("delete from bq_options where option_name like '\\_%transient%'")
        before = self.everything(site)
        told = self.assert_ok(self.run_on(site, "check", "--format", "json"), 1).json
        codes = [one["code"] for module in told["setups"][0]["modules"] for one in module["findings"]]
        self.assertEqual(codes, ["installed.table-absent"])
        self.assertEqual(self.everything(site), before)
        self.stop_servers(site)

    def everything(self, site: Path) -> str:
        server = own_server(site)
        assert server is not None
        server.start(30)
        code = (
            "$c = mysqli_connect('localhost', 'root', '', 'brindle_quay', 0, $argv[1]);"
            "foreach ($c->query('show tables')->fetch_all() as $t) {"
            ' echo $t[0], json_encode($c->query("select * from `$t[0]`")->fetch_all()), PHP_EOL; }'
        )
        told = subprocess.run(["php", "-r", code, str(server.socket)], capture_output=True, text=True, check=True)
        return told.stdout
