"""Every cause of the Django kit has a fault, and the check on a real host names that cause first, at the right file."""

import fnmatch
import shutil
import tempfile
import unittest
from pathlib import Path

from benchmarks.faults import DATABASE, FAULTS, build_healthy_site, judge_all

from swift_sprout.actions.hosting import HostChoice, open_host
from swift_sprout.hosts.django.kit import KIT
from swift_sprout.hosts.django.mends import MENDS
from swift_sprout.hosts.faults import apply_fault, load_faults

from ..support import DJANGO, Case, Ran, sprout, tree_of

#  causes that a file alone cannot bring about; each has a test of its own, named here
ELSEWHERE = {
    "compatible.host-version": "tests of host versions below",
    "enabled.server-stale": "StaleServer below",
    "installed.database-absent": "Databases in test_check.py",
    "served.table-absent": "folded under installed.not-applied, which has a fault",
}


class Catalogue(unittest.TestCase):
    def test_every_rule_has_a_fault_or_a_test_of_its_own(self):
        codes = {rule.code for rule in KIT.data.rules}
        faults = {fault.code for fault in load_faults(FAULTS, "pilotage")}
        self.assertGreaterEqual(len(codes), 45)
        self.assertEqual(codes - faults - set(ELSEWHERE), set())
        self.assertEqual(faults - codes, set())

    def test_what_a_rule_follows_from_exists(self):
        codes = {rule.code for rule in KIT.data.rules}
        for rule in KIT.data.rules:
            for code in rule.follows:
                self.assertTrue(fnmatch.filter(codes, code), f"{rule.code} follows {code}")
            for text in (rule.cause, rule.effect, rule.mend):
                self.assertTrue(text.strip(), rule.code)

    def test_mendable_rules_are_those_that_have_a_mend(self):
        self.assertEqual({rule.code for rule in KIT.data.rules if rule.mendable}, set(MENDS))


class OnTheHost(Case):
    base: tempfile.TemporaryDirectory[str]
    healthy: Path

    @classmethod
    def setUpClass(cls) -> None:
        if not DJANGO.exists():
            raise RuntimeError("the Django host is missing: run `make test`")
        cls.base = tempfile.TemporaryDirectory()
        cls.healthy = build_healthy_site(Path(cls.base.name).resolve())

    @classmethod
    def tearDownClass(cls) -> None:
        cls.base.cleanup()

    def copy(self) -> Path:
        site = self.folder / "site"
        shutil.rmtree(site, ignore_errors=True)
        shutil.copytree(self.healthy, site)
        return site

    def run_on(self, site: Path, *words: str) -> Ran:
        return sprout(*words, "--host", site, "--python", DJANGO)

    def test_a_healthy_module_has_no_finding(self):
        ran = self.assert_ok(self.run_on(self.healthy, "check", "--format", "json"))
        self.assertEqual(ran.json["summary"]["findings"], 0, ran.out)
        self.assertEqual(ran.json["summary"]["served"], 4)

    def test_every_fault_is_named_first(self):
        verdicts = list(judge_all([], self.healthy))
        self.assertGreaterEqual(len(verdicts), 105)
        for verdict in verdicts:
            with self.subTest(verdict.code):
                self.assertTrue(verdict.live, f"not named; got {verdict.place}")
                self.assertTrue(verdict.first, f"not first; got {verdict.place}")

    def test_every_mend_mends(self):
        """Apply the fault, mend, check again: the finding is gone, and undoing brings the ill site back."""
        for fault in load_faults(FAULTS, "pilotage"):
            if fault.code not in MENDS:
                continue
            with self.subTest(fault.code):
                site = self.copy()
                apply_fault(fault, site, site / DATABASE)
                ill = tree_of(site)
                preview = self.run_on(site, "check", "--mend", "--preview")
                self.assertNotIn("Traceback", preview.err)
                self.assertEqual(tree_of(site), ill)
                ran = self.run_on(site, "check", "--mend", "--format", "json")
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
                self.assertEqual({path for path in changed if not path.endswith(".sqlite3")}, named)
                while sprout("undo", "--host", site).status == 0:
                    pass
                after = tree_of(site)
                self.assertEqual({**after, DATABASE: b""}, {**ill, DATABASE: b""})

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
            [DJANGO, "manage.py", "runserver", "--noreload", "127.0.0.1:0"], cwd=site, stderr=-3, stdout=-3
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
            self.assertEqual(list(check(opened, [], static=True).findings), [])
        finally:
            rules._rules["enabled.file-misnamed"] = rules["enabled.file-misnamed"]._replace(versions="")

    def test_a_host_version_that_was_not_checked(self):
        choice = HostChoice(str(self.healthy), "django", str(DJANGO))
        host = open_host(choice).host
        host.view.version = "6.1.0"  # type: ignore[attr-defined]
        facts = host.facts(live=False)
        self.assertIn("outside the checked range", facts.notes[0])
