"""A project that has Django REST framework: endpoints are written with it, and refuse whom they should.

The host is the demo world with the framework listed; one endpoint writes, one is for holders of a right.
"""

import re
import shutil
import subprocess
import sys
from pathlib import Path

from trials.recipes import HOSTS

from ...support import REPOSITORY, Case, Ran, sprout

RUNTIME = HOSTS / "django-5.2-rest/bin/python"
WORLD = REPOSITORY / "src/swift_sprout/hosts/kits/django/world"
BRIEF = """[module]
name = "Crane book"

[[record]]
name = "Crane"
fields = ["name: text(40), unique", "lifts: decimal(6,2)", "kind: choice(mobile, tower)", "checked: date, optional"]

[[record]]
name = "Hire"
fields = ["crane -> Crane (hires)", "day: date", "note: long text, optional", "clerk -> user, optional"]

[[endpoint]]
path = "/api/cranes"
title = "Cranes"
shows = "Crane"
access = "anyone"
methods = ["get", "post", "put", "delete"]

[[endpoint]]
path = "/api/hires"
title = "Hires"
shows = "Hire"
access = "may read Hire"
methods = ["get", "delete"]
"""
ASKED = """
import datetime, json
from django.contrib.auth.models import Permission, User
from django.test import TestCase
from crane_book.models import Crane, Hire


class Asked(TestCase):
    def test_all(self):
        clerk = User.objects.create_user("clerk")
        of = lambda name: Permission.objects.get(codename=name)
        crane = {"name": "Big", "lifts": "12.50", "kind": "tower"}
        post = lambda given: self.client.post("/crane-book/api/cranes/", json.dumps(given), "application/json")
        self.assertEqual(post(crane).status_code, 403)
        self.client.force_login(clerk)
        self.assertEqual(post(crane).status_code, 403)
        clerk.user_permissions.add(of("add_crane"), of("change_crane"), of("delete_crane"), of("view_hire"))
        self.assertEqual(post({**crane, "kind": "float"}).status_code, 400)
        self.assertEqual(post(crane).status_code, 201)
        self.assertEqual(post(crane).status_code, 400)
        kept = Crane.objects.get()
        one = f"/crane-book/api/cranes/{kept.pk}/"
        changed = self.client.put(one, json.dumps({**crane, "lifts": "9.00"}), "application/json")
        self.assertEqual(changed.json(), {"id": kept.pk, **crane, "lifts": "9.00", "checked": None})
        self.assertEqual(self.client.patch(one, "{}", "application/json").status_code, 405)
        for day in (1, 2, 3):
            Hire.objects.create(crane=kept, day=datetime.date(2026, 5, day), clerk=clerk)
        with self.assertNumQueries(6):
            hires = self.client.get("/crane-book/api/hires/").json()["items"]
        self.assertEqual((hires[0]["crane"], hires[0]["clerk"]), (kept.pk, clerk.pk))
        self.assertEqual(self.client.delete(one).status_code, 409)
        self.assertEqual(self.client.delete(f"/crane-book/api/hires/{hires[0]['id']}/").status_code, 403)
        Hire.objects.all().delete()
        self.assertEqual(self.client.delete(one).status_code, 204)
        self.client.logout()
        self.assertEqual(self.client.get("/crane-book/api/cranes/").json(), {"items": []})
        self.assertEqual(self.client.get("/crane-book/api/hires/").status_code, 403)
"""


class WithTheFramework(Case):
    def setUp(self) -> None:
        super().setUp()
        self.root = Path(shutil.copytree(WORLD, self.folder / "quay"))
        settings = self.root / "brindle_quay/settings.py"
        listed = '    "django.contrib.staticfiles",\n'
        settings.write_text(settings.read_text().replace(listed, f'{listed}    "rest_framework",\n'))
        self.manage("migrate", "-v0")

    def sprout(self, *words: str | Path) -> Ran:
        return sprout(*words, "--runtime", RUNTIME, cwd=self.root)

    def manage(self, *words: str) -> str:
        ended = subprocess.run(
            [RUNTIME, "manage.py", *words], cwd=self.root, capture_output=True, text=True, timeout=120
        )
        self.assertEqual(ended.returncode, 0, ended.stderr)
        return ended.stderr

    def assert_reviewed(self) -> None:
        for words in ("check --select E,F,I,B,UP,SIM,DJ --ignore E501", "format --check"):
            ruff = [sys.executable, "-m", "ruff", *words.split(), "--isolated", str(self.root / "crane_book")]
            checked = subprocess.run(ruff, capture_output=True, text=True)
            self.assertEqual(checked.returncode, 0, checked.stdout)

    def test_endpoints_are_views_of_the_framework_and_ask_for_rights(self):
        self.assert_ok(self.sprout("new", "--brief", self.write("crane_book.toml", BRIEF)))
        self.assert_ok(self.sprout("enable", "crane_book"))
        self.assertEqual(self.assert_ok(self.sprout("check", "--format", "json")).json["summary"]["findings"], 0)
        endpoints = self.root / "crane_book/endpoints.py"
        self.assertIn("class ApiCranesListEndpoint(Endpoint, generics.ListCreateAPIView)", endpoints.read_text())
        (self.root / "crane_book/tests/test_asked.py").write_text(ASKED)
        self.assertRegex(self.manage("test", "crane_book"), r"Ran \d+ tests in [\d.]+s\s+OK")
        (self.root / "crane_book/tests/test_asked.py").unlink()
        self.assert_reviewed()
        self.assertIn("nothing was changed", self.assert_ok(self.sprout("refresh", "crane_book")).out)

        more = "/api/lifts: Lifts, shows Crane, access may read Crane, methods put delete"
        self.assert_ok(self.sprout("add", "endpoint", more, "--to", "crane_book"))
        self.assertIn("(Endpoint, generics.UpdateAPIView, generics.DestroyAPIView)", endpoints.read_text())
        self.assert_reviewed()
        self.manage("test", "crane_book")

    def test_where_the_project_is_strict_own_tests_pass_all_the_same(self):
        settings = self.root / "brindle_quay/settings.py"
        defaults = {
            "DEFAULT_AUTHENTICATION_CLASSES": ["rest_framework.authentication.BasicAuthentication"],
            "DEFAULT_PERMISSION_CLASSES": ["rest_framework.permissions.IsAdminUser"],
            "DEFAULT_RENDERER_CLASSES": ["rest_framework.renderers.JSONRenderer"],
        }
        settings.write_text(f"{settings.read_text()}\nREST_FRAMEWORK = {defaults!r}\n")
        self.assert_ok(self.sprout("new", "--brief", self.write("crane_book.toml", BRIEF)))
        self.assert_ok(self.sprout("enable", "crane_book"))
        self.assert_ok(self.sprout("check", "crane_book"))
        self.assertRegex(self.manage("test", "crane_book"), r"Ran \d+ tests in [\d.]+s\s+OK")

    def test_a_method_that_writes_without_a_right_is_told(self):
        self.assert_ok(self.sprout("new", "--brief", self.write("crane_book.toml", BRIEF)))
        self.assert_ok(self.sprout("enable", "crane_book"))
        endpoints = self.root / "crane_book/endpoints.py"
        without = re.sub(r' *"DELETE": \("crane_book.delete_crane",\),\n', "", endpoints.read_text())
        endpoints.write_text(without)
        failing = self.assert_ok(self.sprout("check", "crane_book", "--format", "json"), 1)
        self.assertEqual(
            [one["code"] for one in failing.json["setups"][0]["modules"][0]["findings"]], ["permitted.endpoint-open"]
        )

    def test_a_module_made_before_the_framework_came_keeps_its_endpoints(self):
        settings = self.root / "brindle_quay/settings.py"
        listed = settings.read_text()
        settings.write_text(listed.replace('    "rest_framework",\n', ""))
        self.assert_ok(self.sprout("new", "--brief", self.write("crane_book.toml", BRIEF)))
        made = (self.root / "crane_book/endpoints.py").read_text()
        self.assertNotIn("rest_framework", made)
        settings.write_text(listed)
        self.assertIn("nothing was changed", self.assert_ok(self.sprout("refresh", "crane_book")).out)
