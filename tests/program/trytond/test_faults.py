"""The faults of this host: see tests/faults.py."""

from ... import faults


class OnTheHost(faults.Faults):
    kit = "trytond"
    at_least = 90
    elsewhere = {
        "served.stale": "a server older than the files, below",
        "enabled.not-loaded": "folded under what stops the module, which has faults",
    }

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
