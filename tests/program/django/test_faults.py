"""The faults of this host: see tests/faults.py."""

from swift_sprout.actions.hosting import HostChoice, open_host

from ... import faults


class OnTheHost(faults.Faults):
    kit = "django"
    at_least = 105
    elsewhere = {
        "compatible.host-version": "tests of host versions below",
        "registered.unsure": "what files cannot tell, in test_field.py",
        "served.manager-lacks": "a host written by hand, in test_field.py",
        "served.record-unsaved": "a host written by hand, in test_field.py",
        "served.less-told": "a step that only adds to what is told, in test_packages.py",
        "served.column-unknown": "a host written by hand, in test_field.py",
        "served.form-option-unknown": "a host written by hand, in test_field.py",
        "permitted.template-right-unknown": "a host written by hand, in test_field.py",
        "routed.unsure": "what files cannot tell, in test_field.py",
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
        host.view.version = "7.0.0"  # type: ignore[attr-defined]
        facts = host.facts(live=False)
        self.assertIn("outside the checked range", facts.notes[0])

    def test_what_a_page_refuses_for_reasons_of_its_own_is_a_note(self):
        site = self.copy()
        views, urls = site / "pilotage/views.py", site / "pilotage/urls.py"
        codes = (401, 403, 404, 410, 503)
        views.write_text(
            views.read_text()
            + "\n\nfrom django.http import HttpResponse\n"
            + "".join(
                f"\n\ndef refused_{code}(request):\n    return HttpResponse('no', status={code})\n" for code in codes
            )
        )
        lines = "".join(f'    path("refused/{code}/", views.refused_{code}),\n' for code in codes)
        urls.write_text(urls.read_text().replace("urlpatterns = [\n", f"urlpatterns = [\n{lines}"))
        told = self.assert_ok(self.run_on(site, "check", "pilotage", "--format", "json")).json
        findings = told["setups"][0]["modules"][0]["findings"]
        self.assertEqual({finding["severity"] for finding in findings}, {"note"})
        self.assertEqual({finding["code"] for finding in findings}, {"served.status", "permitted.nobody"})

    def test_one_cause_in_a_shared_template_is_said_once(self):
        site = self.copy()
        base = site / "templates/base.html"
        base.write_text(base.read_text().replace("<body>", "<body>\n{% url 'nowhere' %}"))
        told = self.run_on(site, "check", "--format", "json").json
        modules = told["setups"][0]["modules"]
        errors = [finding for one in modules for finding in one["findings"] if finding["code"] == "served.error"]
        self.assertGreater(len(errors), 3)
        first = [finding for finding in errors if not finding["follows_from"]]
        self.assertEqual({finding["file"] for finding in errors}, {"templates/base.html"})
        self.assertEqual(len({finding["module"] for finding in first}), 1)

    def test_what_others_miss_of_a_module_that_stops_the_host_follows_from_it(self):
        site = self.copy()
        base = site / "templates/base.html"
        base.write_text(base.read_text().replace("<body>", "<body>\n{% url 'pilotage:pilots' %}"))
        (site / "pilotage/views.py").write_text("import not_there\n")
        told = self.run_on(site, "check", "--format", "json").json
        modules = {one["module"]: one["findings"] for one in told["setups"][0]["modules"]}
        self.assertEqual(modules["pilotage"][0]["file"], "pilotage/views.py")
        others = [finding for name, found in modules.items() if name != "pilotage" for finding in found]
        self.assertTrue(others)
        self.assertEqual([finding for finding in others if not finding["follows_from"]], [])
        self.assertIn("pilotage", {finding["follows_from"].partition(" of ")[2] for finding in others})
        shown = self.run_on(site, "check")
        self.assertIn("follows from it", shown.out)

    def test_what_concerns_no_module_is_said_of_the_host_in_every_form(self):
        site = self.copy()
        settings = site / "brindle_quay/settings.py"
        settings.write_text(
            settings.read_text().replace("DEBUG = True", "DEBUG = False").replace('["127.0.0.1", "localhost"]', "[]")
        )
        outputs = [self.folder / f"report{ending}" for ending in (".xml", ".sarif", ".html")]
        ran = self.assert_ok(
            self.run_on(site, "check", *(word for one in outputs for word in ("--output", str(one)))), 1
        )
        self.assertIn("error: the host: DEBUG is off and ALLOWED_HOSTS is empty", ran.out)
        for path in outputs:
            self.assertIn("served.hosts-empty", path.read_text("utf-8"), path.name)
        self.assertIn('failures="1"', outputs[0].read_text("utf-8"))

    def test_an_error_of_another_module_does_not_explain_why_the_host_stops(self):
        site = self.copy()
        settings = site / "brindle_quay/settings.py"
        settings.write_text(settings.read_text().replace("CommonMiddleware", "CommonMiddlewares"))
        views = site / "pilotage/views.py"
        views.write_text(views.read_text().replace("pilotage/plan.html", "pilotage/plans.html"))
        told = self.run_on(site, "check", "--format", "json").json["setups"][0]
        stops = [finding for finding in told["findings"] if finding["code"] == "enabled.site-stops"]
        self.assertEqual([(one["file"], one["follows_from"]) for one in stops], [("brindle_quay/settings.py", "")])
        others = [finding["code"] for module in told["modules"] for finding in module["findings"]]
        self.assertIn("served.template-absent", others)
