"""The whole story on hosts that somebody else wrote: modules go where the project has them, and all stays sound."""

import os
import subprocess
from pathlib import Path
from typing import NamedTuple

from trials.field import prepared, styles
from trials.places import RUNTIMES

from ...support import Case, Ran, sprout, tree_of


class Project(NamedTuple):
    """A host of another style.

    server   -- the folder of its entry script
    module   -- a module of its own with records, and the folder that its packages of code lie in
    pointed  -- one of its records, as another module names it
    settings -- where modules that every environment has are listed
    """

    style: str
    server: str
    module: str
    folder: str
    pointed: str
    settings: str
    made_in: str


PROJECTS = (
    Project(
        "lightship", "backend", "voyages", "apps/voyages", "voyages.Tender", "config/settings/base.py", "apps/crew_list"
    ),
    Project(
        "slipway", ".", "slips", "src/parts/slips", "slips.Slip", "src/slipway/conf/shared.py", "src/parts/crew_list"
    ),
)


class OnProjects(Case):
    def prepare(self, project: Project) -> None:
        style = next(one for one in styles() if one.name == project.style)
        self.root = prepared(style, self.folder / project.style)
        self.server = self.root / project.server

    def sprout(self, *words: str) -> Ran:
        """Run the program from the project's root, as people do."""
        return sprout(*words, "--runtime", RUNTIMES["django"], cwd=self.root)

    def manage(self, *words: str) -> subprocess.CompletedProcess[str]:
        kept = {key: value for key, value in os.environ.items() if key != "DJANGO_SETTINGS_MODULE"}
        command = [str(RUNTIMES["django"]), "manage.py", *words]
        return subprocess.run(command, cwd=self.server, env=kept, capture_output=True, text=True, timeout=120)

    def assert_sound(self, module: str) -> None:
        """Demand that the host serves the module, that its own tests pass, and that no migration is missing."""
        ran = self.assert_ok(self.sprout("check", "--format", "json"))
        self.assertEqual(ran.json["summary"]["findings"], 0, ran.out)
        tested = self.manage("test", module)
        self.assertEqual(tested.returncode, 0, tested.stderr)
        self.assertNotIn("Ran 0 tests", tested.stderr)
        self.assertEqual(self.manage("makemigrations", "--check", "--dry-run").returncode, 0)

    def test_a_new_module_goes_where_all_environments_have_it(self):
        for project in PROJECTS:
            with self.subTest(project.style):
                self.prepare(project)
                before = tree_of(self.root)
                self.assert_ok(self.sprout("survey"))
                record = f"Hand: name text(60), works_on -> {project.pointed} (hands)"
                made = self.sprout("new", "Crew list", "--record", record, "--page", "/crew: Crew, shows Hand")
                self.assert_ok(made)
                self.assertIn(
                    f'needs = ["{project.module}"]', (self.server / project.made_in / "sprout.toml").read_text()
                )
                migration = (self.server / project.made_in / "migrations/0001_initial.py").read_text()
                self.assertIn(f'("{project.module}", "0001_initial")', migration)
                self.assert_ok(self.sprout("enable", "crew_list"))
                self.assertIn("crew_list", (self.server / project.settings).read_text())
                self.assert_sound(project.made_in.replace("src/parts/", "").replace("/", "."))
                self.assert_ok(self.sprout("add", "page", "/crew/rota: Rota", "--to", "crew_list"))
                self.assert_ok(self.sprout("refresh", "crew_list"))
                self.assert_sound(project.made_in.replace("src/parts/", "").replace("/", "."))
                self.assert_ok(self.sprout("disable", "crew_list"))
                self.assert_ok(self.sprout("enable", "crew_list"))
                self.assert_ok(self.sprout("remove", "crew_list", "--data", "drop"))
                after = tree_of(self.root)
                changed = {path for path in {*before, *after} if before.get(path) != after.get(path)}
                self.assertEqual({path for path in changed if not path.endswith((".db", ".sqlite3"))}, set())

    def test_what_is_added_goes_into_the_packages_of_a_module(self):
        for project in PROJECTS:
            with self.subTest(project.style):
                self.prepare(project)
                record = f"Crane: name text(60), of -> {project.pointed.partition('.')[2]} (cranes)"
                self.assert_ok(self.sprout("add", "record", record, "--to", project.module))
                folder = self.server / project.folder
                self.assertFalse((folder / "models.py").exists())
                self.assertIn("from .crane import Crane\n", (folder / "models/__init__.py").read_text())
                self.assert_ok(self.sprout("settle", project.module))
                self.assert_ok(self.sprout("add", "page", "/cranes: Cranes, shows Crane", "--to", project.module))
                self.assertFalse((folder / "views.py").exists())
                views = (folder / "views/cranes.py").read_text()
                self.assertIn("from .. import models", views)
                self.assertNotIn("TemplateView", views)
                self.assert_sound(project.folder.replace("src/parts/", "").replace("/", "."))
                routes = self.assert_ok(self.sprout("show", "routes", project.module))
                self.assertIn("cranes/", routes.out)

    def test_a_module_that_was_split_into_packages_is_refreshed_there(self):
        self.prepare(PROJECTS[0])
        self.assert_ok(
            self.sprout("new", "Rota", "--record", "Turn: name text(20)", "--page", "/rota: Rota, shows Turn")
        )
        self.assert_ok(self.sprout("enable", "rota"))
        folder = self.server / "apps/rota"
        (folder / "models").mkdir()
        (folder / "models.py").rename(folder / "models/turn.py")
        (folder / "models/__init__.py").write_text("from .turn import Turn\n")
        self.assert_ok(self.sprout("add", "record", "Watch: name text(20), turn -> Turn (watches)", "--to", "rota"))
        brief = folder / "sprout.toml"
        brief.write_text(
            brief.read_text().replace('"name: text(20)"', '"name: text(20)", "begins: date, default today"')
        )
        self.assert_ok(self.sprout("refresh", "rota"))
        self.assertEqual(
            (folder / "models/__init__.py").read_text(), "from .turn import Turn\nfrom .watch import Watch\n"
        )
        for name in ("turn", "watch"):
            text = (folder / f"models/{name}.py").read_text()
            self.assertIn("import datetime", text)
            self.assertEqual(text.count("begins = models.DateField("), 1)
            self.assertEqual(text.count("class "), 2)
        self.assertFalse((folder / "models.py").exists())
        self.assert_ok(self.sprout("settle", "rota"))
        self.assert_sound("apps.rota")

    def test_a_block_goes_where_pages_draw_it(self):
        self.prepare(PROJECTS[1])
        self.assert_ok(
            self.sprout("new", "Rota", "--record", "Turn: name text(20)", "--page", "/rota: Rota, shows Turn")
        )
        self.assert_ok(self.sprout("add", "block", "Turns next, shows Turn", "--to", "rota"))
        self.assert_ok(self.sprout("enable", "rota"))
        self.assert_ok(self.sprout("add", "placement", "Turns next, place layout.html", "--to", "rota"))
        layout = self.root / "src/slipway/pages/layout.html"
        tag = "{% load rota_blocks %}{% turns_next %}"
        self.assertIn("{% block main %}{% endblock %}" + tag + "</main>", layout.read_text())
        self.assertEqual(self.assert_ok(self.sprout("check", "--format", "json")).json["summary"]["findings"], 0)
        self.assert_ok(self.sprout("why", "rota", "turns_next"))
        self.assert_ok(self.sprout("undo"))
        (layout.parent / "bare.html").write_text('{% extends "layout.html" %}\n')
        before = tree_of(self.root)
        ran = self.assert_ok(self.sprout("add", "placement", "Turns next, place bare.html", "--to", "rota"), 4)
        self.assertIn("Places that pages draw: front page, front.html", " ".join(ran.err.split()))
        self.assertEqual(tree_of(self.root), before)
        (layout.parent / "bare.html").unlink()
        layout.write_text(layout.read_text().replace("{% block main %}", "{% block main %}" + tag))
        ran = self.assert_ok(self.sprout("why", "rota", "turns_next"), 1)
        self.assertIn("which every template that extends layout.html replaces", " ".join(ran.out.split()))
        self.assertIn("placed.block-kept-out", self.assert_ok(self.sprout("check", "--static"), 1).out)

    def test_a_page_goes_ahead_of_an_address_that_answers_for_it(self):
        self.prepare(PROJECTS[0])
        addresses = self.server / "apps/voyages/urls.py"
        swallows = '    path("<slug:tender>/", VoyageList.as_view(), name="of-tender"),\n]'
        addresses.write_text(addresses.read_text().replace("]", swallows))
        self.assert_ok(self.sprout("add", "page", "/timetable: Timetable", "--to", "voyages"))
        lines = addresses.read_text().splitlines()
        places = {word: next(at for at, line in enumerate(lines) if word in line) for word in ("timetable/", "<slug:")}
        self.assertLess(places["timetable/"], places["<slug:"])
        self.assert_sound("apps.voyages")

    def test_what_is_not_there_is_refused_before_anything_is_written(self):
        self.prepare(PROJECTS[0])
        before = tree_of(self.root)
        for words, told in (
            (("--record", "Hand: works_on -> voyages.Tendr"), "Nearest known: Tender."),
            (("--record", "Hand: works_on -> voyage.Tender"), "Nearest known: voyages."),
            (("--needs", "voyges"), "Nearest known: voyages."),
        ):
            with self.subTest(words):
                ran = self.assert_ok(self.sprout("new", "Crew list", *words), 4)
                self.assertIn(told, ran.err)
        self.assertEqual(tree_of(self.root), before)
        self.assert_ok(self.sprout("new", "Crew list", "--record", "Hand: works_on -> voyages.Tender"))
        before = tree_of(self.root)
        bare = self.folder / "bare"
        bare.mkdir()
        without = sprout("enable", "crew_list", cwd=self.root, VIRTUAL_ENV=str(bare))
        self.assert_ok(without, 3)
        self.assertIn("no-interpreter", without.err)
        self.assertEqual(tree_of(self.root), before)

    def test_modules_that_are_made_in_one_go_rest_on_each_other(self):
        self.prepare(PROJECTS[0])
        first = self.write(
            "first.toml", '[module]\nname = "Alpha"\n\n[[record]]\nname = "Ant"\nfields = ["name: text(9)"]\n'
        )
        text = '[module]\nname = "Beta"\n\n[[record]]\nname = "Bee"\nfields = ["ant -> alpha.Art"]\n'
        second = self.write("second.toml", text)
        both = ("--brief", str(second), "--brief", str(first))
        self.assertIn("Nearest known: Ant.", self.assert_ok(self.sprout("new", *both), 4).err)
        second.write_text(text.replace("alpha.Art", "alpha.Ant"))
        self.assert_ok(self.sprout("new", *both))
        self.assertIn('needs = ["alpha"]', (self.server / "apps/beta/sprout.toml").read_text())
        self.assert_ok(self.sprout("enable", "alpha"))
        self.assert_ok(self.sprout("enable", "beta"))
        self.assert_sound("apps.beta")

    def test_a_module_with_which_the_host_does_not_start_is_taken_back(self):
        self.prepare(PROJECTS[0])
        self.assert_ok(self.sprout("new", "Quay", "--page", "/quay: Quay"))
        addresses: Path = self.server / "apps/quay/urls.py"
        addresses.write_text(addresses.read_text() + "\nimport nothing_of_the_sort  # noqa\n")
        before = tree_of(self.root)
        ran = self.assert_ok(self.sprout("enable", "quay"), 3)
        self.assertIn("nothing_of_the_sort", ran.err)
        self.assertEqual(tree_of(self.root), before)

    def test_at_another_address_a_module_is_as_its_brief_says(self):
        self.prepare(PROJECTS[0])
        self.assert_ok(
            self.sprout("new", "Rota", "--record", "Turn: name text(20)", "--page", "/rota: Rota, shows Turn")
        )
        self.assert_ok(self.sprout("enable", "rota", "--at", "/staff"))
        self.assert_ok(self.sprout("add", "page", "/rota/today: Today", "--to", "rota"))
        self.assertIn("is as its brief says", self.assert_ok(self.sprout("refresh", "rota")).out)
        self.assert_sound("apps.rota")

    def test_pages_use_the_blocks_that_the_layout_has(self):
        self.prepare(PROJECTS[0])
        brief = self.write("rota.toml", GROUPED + PLACED)
        self.assert_ok(self.sprout("new", "--brief", str(brief)))
        self.assert_ok(self.sprout("enable", "rota"))
        code = (
            "from django.conf import settings\nsettings.ALLOWED_HOSTS = ['*']\n"
            "from django.test import Client\nprint(Client().get('/rota/').content.decode())"
        )
        page = self.manage("shell", "-c", code).stdout
        self.assertIn("<title>Rota – Lightship</title>", page)
        head, _, body = page.partition("</head>")
        self.assertIn("rota/rota.css", head)
        self.assertIn("rota/rota.js", body.partition("</main>")[2])
        self.assertEqual((body.count("rota.css"), head.count("rota.js")), (0, 0))

    def test_settings_are_chosen_by_name(self):
        self.prepare(PROJECTS[0])
        told = self.assert_ok(self.sprout("survey", "--settings", "config.settings.prod", "--format", "json")).json
        self.assertIn("config.settings.prod", str(told))
        ran = self.assert_ok(self.sprout("check", "--settings", "config.settings.prod", "--format", "json"))
        modules = [one["module"] for one in ran.json["setups"][0]["modules"] if one["ladder"][-1]["state"] == "pass"]
        self.assertEqual(modules, ["apps.voyages"])  # the tool for developers is not among these settings
        wrong = self.assert_ok(self.sprout("check", "--settings", "config.settings.prd", "--format", "json"), 3)
        self.assertIn("config.settings.prd", wrong.out + wrong.err)

    def test_facts_that_the_files_have_no_place_for_are_told(self):
        self.prepare(PROJECTS[0])
        facts = ("--group", "Harbour", "--author", "The harbour office", "--licence", "MIT")
        ran = self.assert_ok(self.sprout("new", "Rota", *facts))
        self.assertIn("no place for the group 'Harbour'", ran.out)
        self.assertNotIn("no place for the author", ran.out)
        self.assertIn('"MIT"', (self.server / "apps/rota/__init__.py").read_text())
        told = self.assert_ok(self.sprout("new", "Watch list", *facts, "--preview", "--format", "json")).json["left"]
        self.assertEqual(len(told), 1)

    def test_rights_that_were_given_by_hand_stay_when_the_host_is_migrated(self):
        self.prepare(PROJECTS[0])
        brief = self.write("rota.toml", GROUPED)
        self.assert_ok(self.sprout("new", "--brief", str(brief)))
        self.assert_ok(self.sprout("enable", "rota"))
        given = (
            "from django.contrib.auth.models import Group, Permission as P\n"
            "group = Group.objects.get(name='Planners')\n"
            "print(sorted(group.permissions.values_list('codename', flat=True)))\n"
            "group.permissions.add(P.objects.get(codename='delete_turn'))\n"
        )
        self.assertIn("['change_turn', 'view_turn']", self.manage("shell", "-c", given).stdout)
        self.assertEqual(self.manage("migrate", "-v", "0").returncode, 0)
        self.assertIn("['change_turn', 'delete_turn', 'view_turn']", self.manage("shell", "-c", given).stdout)


GROUPED = """
[module]
name = "Rota"

[[record]]
name = "Turn"
fields = ["name: text(20)"]

[[group]]
name = "Planners"
may = { Turn = "read change" }
"""

PLACED = """
[[page]]
path = "/rota"
title = "Rota"
shows = "Turn"

[[asset]]
file = "rota.css"

[[asset]]
file = "rota.js"
"""
