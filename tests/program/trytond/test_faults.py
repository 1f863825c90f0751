"""The faults of this host: see tests/faults.py."""

from ... import faults

_BY_HAND = "modules written by hand, in test_field.py"


class OnTheHost(faults.Faults):
    kit = "trytond"
    at_least = 90
    elsewhere = {
        "served.stale": "a server older than the files, below",
        "enabled.not-loaded": "folded under what stops the module, which has faults",
        "registered.not-singleton": _BY_HAND,
        "installed.domain-unknown": _BY_HAND,
        "installed.schema-plain": _BY_HAND,
        "installed.value-unknown": _BY_HAND,
        "installed.value-refused": _BY_HAND,
        "installed.copied-unknown": _BY_HAND,
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

    def test_a_data_file_is_listed_where_its_references_allow(self):
        site = self.copy()
        manifest = site / "modules/pilotage/tryton.cfg"
        listed = manifest.read_text()
        manifest.write_text(listed.replace("    pilot.xml\n", ""))
        self.run_on(site, "check", "pilotage", "--static", "--mend")
        self.assertEqual(manifest.read_text(), listed)

        manifest.write_text(listed.replace("    watch.xml\n", ""))
        notice = site / "modules/pilotage/messages.xml"
        needed = '<menuitem id="menu_of_both" parent="menu_pilotage" action="act_boat" name="Both"/>'
        notice.write_text(notice.read_text().replace("    </data>", f"        {needed}\n    </data>"))
        watch = site / "modules/pilotage/watch.xml"
        needed = '<menuitem id="menu_below_both" parent="menu_of_both" action="act_boat" name="Below"/>'
        watch.write_text(watch.read_text().replace("    </data>", f"        {needed}\n    </data>"))
        ran = self.run_on(site, "check", "pilotage", "--static", "--mend")
        self.assertIn("watch.xml and messages.xml need each other", ran.out + ran.err)
        self.assertNotIn("watch.xml", manifest.read_text())

    def test_why_knows_actions_and_models_of_a_module_by_hand(self):
        site = self.copy()
        for what, person, status, told in (
            ("pilotage.roster", "visitor", 1, "sign in, in the client"),
            ("pilotage.roster", "staff", 0, "wizard Roster"),
            ("wizard_roster", "staff", 0, "Pilotage / Roster"),
            ("act_boat", "signed in", 0, "a menu entry or a model offers it"),
            ("pilotage.pilot", "signed in", 1, "put the user into the group"),
        ):
            with self.subTest(what=what, person=person):
                ran = self.assert_ok(self.run_on(site, "why", "pilotage", what, "--as", person), status)
                self.assertIn(told, ran.out)
