"""The faults of this host: see tests/faults.py."""

from swift_sprout.actions.hosting import HostChoice, open_host

from ... import faults


class OnTheHost(faults.Faults):
    kit = "django"
    at_least = 105
    elsewhere = {
        "compatible.host-version": "tests of host versions below",
        "enabled.server-stale": "a server older than the files, below",
        "installed.database-absent": "Databases in test_check.py",
        "served.table-absent": "folded under installed.not-applied, which has a fault",
    }

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
        opened = open_host(HostChoice(str(site), "django", str(self.python)))
        self.assertEqual([one.code for one in check(opened, [], static=True).findings], ["enabled.file-misnamed"])
        rules = opened.kit.data.rules
        rules._rules["enabled.file-misnamed"] = rules["enabled.file-misnamed"]._replace(versions="<5.0")
        try:
            afresh = opened.host.check([], live=False)  # what was kept of the check before holds for rules as they are
            self.assertEqual([one.code for module in afresh.modules for one in module.findings], [])
        finally:
            rules._rules["enabled.file-misnamed"] = rules["enabled.file-misnamed"]._replace(versions="")

    def test_a_host_version_that_was_not_checked(self):
        choice = HostChoice(str(self.healthy), "django", str(self.python))
        host = open_host(choice).host
        host.view.version = "6.1.0"  # type: ignore[attr-defined]
        facts = host.facts(live=False)
        self.assertIn("outside the checked range", facts.notes[0])
