"""Enabling and disabling on projects that are not ours: every common form of settings, and the refusals."""

import ast

from ..support import DJANGO, Case, SiteCase, host_python, sprout, tree_of

MANAGE = """import os, sys
from django.core.management import execute_from_command_line
if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "{settings}")
    execute_from_command_line(sys.argv)
"""
REST = """
SECRET_KEY = "pilots"
DEBUG = True
ROOT_URLCONF = "{urls}"
DATABASES = {{"default": {{"ENGINE": "django.db.backends.sqlite3", "NAME": BASE_DIR / "pilots.sqlite3"}}}}
TEMPLATES = [{{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}}]
"""
HEAD = "from pathlib import Path\nBASE_DIR = Path(__file__).resolve().parent{up}\n"
URLS = "from django.urls import path\n\nurlpatterns = [\n]\n"
CORE = '"django.contrib.contenttypes", "django.contrib.auth", "django.contrib.sessions"'


class PlainProject(Case):
    """A Django project made by hand, with one module of its own, ``pilots``."""

    def project(self, apps: str, urls: str = URLS) -> None:
        self.write("manage.py", MANAGE.format(settings="pilotage.settings"))
        self.write("pilotage/__init__.py", "")
        self.write("pilotage/settings.py", HEAD.format(up=".parent") + apps + REST.format(urls="pilotage.urls"))
        self.write("pilotage/urls.py", urls)
        self.module("pilots")

    def module(self, name: str) -> None:
        self.write(f"{name}/__init__.py", "")
        self.write(
            f"{name}/views.py",
            "from django.http import HttpResponse\n\n\ndef crew(request):\n"
            "    return HttpResponse('Pilots on watch')\n",
        )
        self.write(
            f"{name}/urls.py",
            "from django.urls import path\nfrom . import views\nurlpatterns = [path('', views.crew)]\n",
        )

    def run_on(self, *words: str, status: int = 0):
        options = ["--host", str(self.folder), *(["--runtime", str(DJANGO)] if words[0] != "undo" else [])]
        return self.assert_ok(sprout(*words, *options), status)

    def enable_and_prove(self, settings: str, wanted: str, path: str = "/pilots/") -> str:
        before = tree_of(self.folder)
        self.run_on("enable", "pilots")
        text = (self.folder / settings).read_text()
        self.assertIn(wanted, text)
        checked = self.run_on("check", "pilots", "--format", "json").json
        self.assertEqual(checked["setups"][0]["modules"][0]["addresses"], [path])
        self.run_on("disable", "pilots")
        after = tree_of(self.folder)
        after.pop("pilots.sqlite3", None)
        for name, content in before.items():
            ast.parse(after[name])
            if name.endswith("settings.py"):
                self.assertEqual(after[name], content, name)
        return text


class SettingsForms(PlainProject):
    def test_list_with_comments(self):
        text = f"INSTALLED_APPS = [\n    {CORE},\n    # our own\n]\n"
        self.project(text)
        self.enable_and_prove("pilotage/settings.py", "    # our own\n")

    def test_tuple(self):
        self.project(f"INSTALLED_APPS = ({CORE})\n")
        self.enable_and_prove("pilotage/settings.py", '"django.contrib.sessions", "pilots")')

    def test_single_quotes_are_kept(self):
        self.project(f"INSTALLED_APPS = [{CORE}]\n".replace('"', "'"))
        self.enable_and_prove("pilotage/settings.py", "'django.contrib.sessions', 'pilots']")

    def test_augmented_assignment(self):
        self.project(f"INSTALLED_APPS = [{CORE}]\nINSTALLED_APPS += [\n    'boats',  # small ones\n]\n")
        self.module("boats")
        self.enable_and_prove("pilotage/settings.py", "    'boats',  # small ones\n    'pilots',\n]")

    def test_parts_put_together(self):
        self.project(f"HOST = [{CORE}]\nOURS = ['boats']\nINSTALLED_APPS = HOST + OURS\n")
        self.module("boats")
        self.enable_and_prove("pilotage/settings.py", "OURS = ['boats', 'pilots']")

    def test_unpacked_and_appended(self):
        self.project(f"OURS = []\nINSTALLED_APPS = [*OURS, {CORE}]\nINSTALLED_APPS.append('boats')\n")
        self.module("boats")
        self.enable_and_prove("pilotage/settings.py", "pilots")

    def test_windows_line_ends_and_byte_order_mark_stay(self):
        self.project("")
        path = self.folder / "pilotage/settings.py"
        source = (
            HEAD.format(up=".parent")
            + f"INSTALLED_APPS = [\n    {CORE},\n    'boats',\n]\n"
            + REST.format(urls="pilotage.urls")
        )
        self.module("boats")
        path.write_bytes(b"\xef\xbb\xbf" + source.replace("\n", "\r\n").encode())
        before = path.read_bytes()
        self.run_on("enable", "pilots")
        after = path.read_bytes()
        self.assertEqual(after.replace(b"    'pilots',\r\n", b""), before)

    def test_latin_1_source_stays_latin_1(self):
        self.project("")
        path = self.folder / "pilotage/settings.py"
        source = "# -*- coding: latin-1 -*-\n# Hafenb\xfcro\n" + HEAD.format(up=".parent")
        path.write_bytes(
            (source + f"INSTALLED_APPS = [{CORE}]\n" + REST.format(urls="pilotage.urls")).encode("latin-1")
        )
        self.run_on("enable", "pilots")
        self.assertIn("Hafenb\xfcro", path.read_bytes().decode("latin-1"))


class SplitSettings(PlainProject):
    def split(self) -> None:
        self.write("manage.py", MANAGE.format(settings="pilotage.settings.local"))
        self.write("pilotage/__init__.py", "")
        self.write("pilotage/settings/__init__.py", "")
        base = f"INSTALLED_APPS = [\n    {CORE},\n    'boats',\n]\n"
        self.write(
            "pilotage/settings/base.py", HEAD.format(up=".parent.parent") + base + REST.format(urls="pilotage.urls")
        )
        local = "from .base import *\n\nINSTALLED_APPS += ['django.contrib.messages']\n"
        self.write("pilotage/settings/local.py", local)
        self.write(
            "pilotage/urls.py",
            "from django.urls import re_path\nfrom boats import views\n\n"
            "urlpatterns = [\n    re_path(r'^.*$', views.crew),  # the last word\n]\n",
        )
        self.module("boats")
        self.module("pilots")

    def test_the_shared_file_gets_the_entry_and_the_catch_all_stays_last(self):
        self.split()
        self.run_on("enable", "pilots", "--at", "/watch/pilots")
        self.assertIn("    'boats',\n    'pilots',\n]", (self.folder / "pilotage/settings/base.py").read_text())
        self.assertNotIn("pilots", (self.folder / "pilotage/settings/local.py").read_text())
        urls = (self.folder / "pilotage/urls.py").read_text()
        self.assertLess(urls.index("pilots.urls"), urls.index("the last word"))
        checked = self.run_on("check", "pilots", "--format", "json").json
        self.assertEqual(checked["setups"][0]["modules"][0]["addresses"], ["/watch/pilots/"])
        self.run_on("undo")
        self.assertNotIn("'pilots'", (self.folder / "pilotage/settings/base.py").read_text())

    def test_new_works_on_split_settings(self):
        self.split()
        self.run_on("new", "Tide board", "--record", "Tide: station text(80)")
        self.run_on("enable", "tide_board")
        ran = self.run_on("check", "tide_board", "--format", "json").json
        self.assertEqual(ran["summary"], ran["summary"] | {"served": 1, "findings": 0})
        tests = host_python("manage.py", "test", "tide_board", cwd=self.folder)
        self.assertEqual(tests.returncode, 0, tests.stderr)


class Refusals(PlainProject):
    def refused(self, *wanted: str) -> None:
        before = tree_of(self.folder)
        ran = self.run_on("enable", "pilots", status=4)
        for text in wanted:
            self.assertIn(text, ran.err)
        self.assertEqual(tree_of(self.folder), before)

    def test_list_made_by_a_call(self):
        self.project(f"def made():\n    return [{CORE}]\n\nINSTALLED_APPS = made()\n")
        self.refused("registration-unsure", '"pilots",', "pilotage/settings.py")

    def test_list_only_under_a_condition(self):
        self.project(f"import os\nif os.environ.get('FULL'):\n    INSTALLED_APPS = [{CORE}]\n")
        self.refused("registration-unsure", '"pilots",')

    def test_addresses_made_by_a_call(self):
        self.project(f"INSTALLED_APPS = [{CORE}]\n", "def made():\n    return []\n\nurlpatterns = made()\n")
        self.refused('path("pilots/", include("pilots.urls")),')

    def test_settings_that_do_not_parse(self):
        self.project("INSTALLED_APPS = [\n    'pilots'\n")
        self.refused("does not parse")

    def test_a_module_that_others_need_is_not_switched_off(self):
        self.project(f"INSTALLED_APPS = [{CORE}, 'pilots', 'boats']\n")
        self.module("boats")
        self.write(
            "boats/sprout.toml", 'format = "swift-sprout/brief/1"\n[module]\nname = "Boats"\nneeds = ["pilots"]\n'
        )
        ran = self.run_on("disable", "pilots", status=4)
        self.assertIn("swift-sprout disable boats", ran.err)

    def test_host_that_stops_with_the_module_is_left_as_it_was(self):
        self.project(f"INSTALLED_APPS = [\n    {CORE},\n]\n")
        self.write("pilots/models.py", "import pilot_boats_that_nobody_installed\n")
        self.write("pilots/migrations/__init__.py", "")
        self.write(
            "pilots/migrations/0001_initial.py",
            "from django.db import migrations\n\n\n"
            "class Migration(migrations.Migration):\n    initial = True\n    operations = []\n",
        )
        before = tree_of(self.folder)
        ran = self.run_on("enable", "pilots", status=3)
        self.assertIn("were taken back", ran.err)
        after = tree_of(self.folder)
        after.pop("pilots.sqlite3", None)
        self.assertEqual(after, before)


class HandWritten(SiteCase):
    def test_a_hand_written_module_is_switched_off_and_on_again_byte_for_byte(self):
        before = tree_of(self.site)
        self.assert_ok(self.sprout("disable", "ferries"))
        checked = self.assert_ok(self.sprout("check", "Ferries", "--format", "json"), 1)
        self.assertEqual(self.codes(checked, "ferries")[0], "registered.not-listed")
        self.assert_ok(self.sprout("enable", "ferries", "--at", "ferries"))
        self.assert_ok(self.sprout("check", "ferries"))
        self.assertEqual(tree_of(self.site).keys(), before.keys())
