"""``pattern``: one's own finished module as the starting point of others, on hosts of every sort."""

from __future__ import annotations

import json

import jsonschema

from trials.hosts import built_healthy, copy_host

from ..support import REPOSITORY, Case, Ran, SiteCase, host_python, need_wordpress, sprout, tree_of
from .test_plain_folders import NAMES, SHAPES, TownCase, spelled

SCHEMAS = REPOSITORY / "src/swift_sprout/reports/schemas"
BERTHS = "Berth: number text(12), unique, length_m decimal(5,1)"
BOOKINGS = "Booking: berth -> Berth (bookings), vessel text(60), state choice(asked, granted)"
MOORINGS = {
    "moorings/__init__.py": "",
    "moorings/apps.py": (
        "from django.apps import AppConfig\n\n\nclass MooringsConfig(AppConfig):\n"
        '    name = "moorings"\n    label = "moorings"\n    verbose_name = "Places to lie"\n'
        '    default_auto_field = "django.db.models.BigAutoField"\n'
    ),
    "moorings/models.py": (
        "from django.db import models\n\n\nclass Order(models.Model):\n"
        '    """Who ordered a mooring."""\n\n    who = models.CharField(max_length=40)\n\n'
        '    class Meta:\n        ordering = ["who"]\n        verbose_name = "order"\n\n'
        "    def __str__(self):\n        return self.who\n"
    ),
    "moorings/migrations/__init__.py": "",
    "moorings/migrations/0001_initial.py": (
        "from django.db import migrations, models\n\n\nclass Migration(migrations.Migration):\n    initial = True\n"
        "    dependencies = []\n    operations = [\n        migrations.CreateModel(\n"
        '            name="Order",\n            fields=[\n'
        '                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),\n'
        '                ("who", models.CharField(max_length=40)),\n            ],\n'
        '            options={"ordering": ["who"], "verbose_name": "order"},\n        ),\n    ]\n'
    ),
    "moorings/views.py": (
        "from django.conf import settings\nfrom django.shortcuts import render\n\nfrom .models import Order\n\n\n"
        "def orders(request):\n    found = Order.objects.order_by('-who')[: settings.MOORINGS_SHOWN]\n"
        '    return render(request, "moorings/orders.html", {"orders": found})\n'
    ),
    "moorings/templates/moorings/orders.html": (
        "<h1>Places to lie</h1>{% for order in orders %}<p>{{ order }}</p>{% endfor %}\n"
    ),
    "moorings/urls.py": (
        "from django.urls import path\n\nfrom . import views\n\n"
        'app_name = "moorings"\nurlpatterns = [path("", views.orders, name="orders")]\n'
    ),
}


class InPlainFolders(TownCase):
    def test_a_module_is_taken_tried_and_made_into_another_in_any_language(self) -> None:
        for modules, (way, files, outside) in SHAPES.items():
            with self.subTest(modules):
                self.build(modules)
                before = tree_of(self.folder / "town")
                self.assert_ok(self.run_in(modules, "pattern", "take", spelled("Tide board")[way], "--as", "board"))
                taken = tree_of(self.folder / "town")
                self.assertEqual({path: held for path, held in taken.items() if path in before}, before)
                ran = self.assert_ok(self.run_in(modules, "pattern", "try", "board"))
                self.assertIn("no findings", ran.out)
                self.assertEqual(tree_of(self.folder / "town"), taken)
                self.assert_ok(self.run_in(modules, "new", "Grey mice", "--pattern", "board"))
                names = spelled("Grey mice")
                for path, text in files.items():
                    made = self.folder / "town" / modules / names[way] / path.format(**names)
                    self.assertEqual(made.read_text(), text.format(**names))
                for path, line in outside.items():
                    lines = "".join(line.format(**spelled(name)) for name in (*NAMES, "Grey mice"))
                    self.assertEqual((self.folder / "town" / path).read_text(), lines)
                self.assert_ok(self.run_in(modules, "check"))
                self.assert_ok(self.run_in(modules, "undo"))
                self.assertEqual(tree_of(self.folder / "town"), taken)

    def test_a_list_makes_all_of_its_modules_or_none(self) -> None:
        self.build("plugins")
        self.assert_ok(self.run_in("plugins", "pattern", "take", "tide-board", "--as", "board"))
        before = tree_of(self.folder / "town")
        rows = self.write("rows.csv", "module;internal\nBuoy yard;\nTide board;\nRope walk;x y\n;\n")
        refused = self.assert_ok(self.run_in("plugins", "new", "--pattern", "board", "--from", str(rows)), 2)
        self.assertIn(f"{rows}:3", refused.err)
        self.assertEqual(tree_of(self.folder / "town"), before)
        rows = self.write("rows.csv", "module,colour\nBuoy yard,\n")
        refused = self.assert_ok(self.run_in("plugins", "new", "--pattern", "board", "--from", str(rows)), 2)
        self.assertIn("column 2", refused.err)
        rows = self.write("rows.csv", "\ufeffmodule\nBuoy yard\nRope walk\n")
        made = self.assert_ok(self.run_in("plugins", "new", "--pattern", "board", "--from", str(rows)))
        self.assertIn("2 modules, no findings", made.out)
        names = ["tide-board", "berth-register", "ferry-lines", "harbour-office", "buoy-yard", "rope-walk"]
        self.assertEqual((self.folder / "town/plugins.txt").read_text().split(), names)
        self.assert_ok(self.run_in("plugins", "undo"))
        self.assertEqual(tree_of(self.folder / "town"), before)

    def test_later_changes_of_a_pattern_reach_modules_that_people_edited(self) -> None:
        self.build("plugins")
        self.assert_ok(self.run_in("plugins", "pattern", "take", "tide-board", "--as", "board"))
        self.assert_ok(self.run_in("plugins", "new", "Buoy yard", "--pattern", "board"))
        index = self.folder / "town/plugins/buoy-yard/index.mjs"
        index.write_text("// ours\n" + index.read_text())
        made_of = self.folder / "town/sprout-patterns/board/files/plugins/⟦tide-board⟧"
        source = made_of / "index.mjs.pattern"
        source.write_text(source.read_text() + "export const ⟦tideBoard⟧ = 1;\n")
        (made_of / "⟦tide-board⟧.css.pattern").write_text(".⟦tide-board⟧ {}\n")
        listed = self.assert_ok(self.run_in("plugins", "pattern", "list"))
        self.assertIn("buoy-yard (behind)", listed.out)
        where = self.assert_ok(self.run_in("plugins", "pattern", "where", "plugins/buoy-yard/index.mjs:2"))
        self.assertIn("⟦tide-board⟧/index.mjs.pattern:1", where.out)
        where = self.assert_ok(self.run_in("plugins", "pattern", "where", "plugins/buoy-yard/index.mjs:1"))
        self.assertIn("was written since", where.out)
        self.assert_ok(self.run_in("plugins", "refresh", "buoy-yard", "--pattern"))
        text = index.read_text()
        self.assertTrue(text.startswith("// ours\n") and text.endswith("export const buoyYard = 1;\n"), text)
        self.assertEqual(index.with_name("buoy-yard.css").read_text(), ".buoy-yard {}\n")
        listed = self.assert_ok(self.run_in("plugins", "pattern", "list"))
        self.assertNotIn("behind", listed.out)
        source.write_text(source.read_text().replace("= 1", "= 2"))
        index.write_text(index.read_text().replace("= 1", "= 3"))
        conflict = self.assert_ok(self.run_in("plugins", "refresh", "buoy-yard", "--pattern"), 1)
        self.assertIn("buoy-yard/index.mjs:", conflict.out)
        self.assertIn("from the pattern", index.read_text())
        self.assert_ok(self.run_in("plugins", "refresh", "buoy-yard", "--pattern"), 4)

    def test_a_module_of_a_pattern_may_be_renamed_and_stays_its_own(self) -> None:
        self.build("plugins")
        self.assert_ok(self.run_in("plugins", "pattern", "take", "tide-board", "--as", "board"))
        self.assert_ok(self.run_in("plugins", "new", "Buoy yard", "--pattern", "board"))
        self.assert_ok(self.run_in("plugins", "rename", "buoy-yard", "Rope walk"))
        source = self.folder / "town/sprout-patterns/board/files/plugins/⟦tide-board⟧/index.mjs.pattern"
        source.write_text(source.read_text() + "// ⟦TIDE_BOARD⟧\n")
        self.assert_ok(self.run_in("plugins", "refresh", "rope-walk", "--pattern"))
        self.assertIn("// ROPE_WALK\n", (self.folder / "town/plugins/rope-walk/index.mjs").read_text())

    def test_bad_input_names_the_place_and_nothing_is_made(self) -> None:
        self.build("plugins")
        self.assert_ok(self.run_in("plugins", "pattern", "take", "tide-board", "--as", "board"))
        folder = self.folder / "town/sprout-patterns/board"
        file = folder / "files/plugins/⟦tide-board⟧/index.mjs.pattern"
        text = file.read_text()
        for words, status, code in (
            (("pattern", "take", "tide-board", "--as", "board"), 4, "pattern-there"),
            (("pattern", "take", "tide-board", "--as", "../x"), 2, "pattern-name"),
            (("pattern", "take", "tide-board"), 2, "pattern-unnamed"),
            (("pattern", "take", "tide-bord", "--as", "x"), 2, "module-unknown"),
            (("pattern", "take", "tide-board", "--as", "x", "--fixed", "Tide"), 2, "record-unknown"),
            (("pattern", "tale", "board"), 2, "pattern-action"),
            (("pattern", "show", "bord"), 2, "pattern-unknown"),
            (("pattern", "where", "plugins/tide-board/index.mjs:1"), 2, "not-of-pattern"),
            (("pattern", "where", "plugins/tide-board/index.mjs"), 2, "place-unclear"),
            (("pattern", "where", "plugins/none.mjs:1"), 2, "file-absent"),
            (("new", "Buoy yard", "--pattern", "board", "--record", "Buoy"), 2, "records-too-many"),
            (("new", "Buoy yard", "--pattern", "board", "--word", "x"), 2, "word-unclear"),
            (("new", "Buoy yard", "--pattern", "board", "--word", "x=y"), 2, "word-unknown"),
            (("new", "Buoy yard", "--pattern", "board", "--variant", "small"), 2, "variant-unknown"),
            (("new", "Buoy yard", "--pattern", "board", "--summary", "x"), 2, "pattern-alone"),
            (("new", "Buoy yard", "--from", "x.csv"), 2, "pattern-options"),
            (("new", "--pattern", "board"), 2, "options-missing"),
            (("new", "--pattern", "board", "--from", "none.csv"), 2, "list-unreadable"),
            (("new", "Berth register", "--pattern", "board"), 4, "name-taken"),
            (("refresh", "tide-board", "--pattern"), 4, "not-of-pattern"),
        ):
            with self.subTest(" ".join(words)):
                before = tree_of(self.folder / "town")
                ran = self.assert_ok(self.run_in("plugins", *words), status)
                self.assertIn(f"[{code}]", ran.err)
                self.assertEqual(tree_of(self.folder / "town"), before)
        for change, code, place in (
            (lambda: file.write_text(text + "⟦buoy⟧"), "pattern-unfilled", "index.mjs.pattern:3"),
            (lambda: (folder / "files/a.txt").write_text("x"), "pattern-file", "files/a.txt"),
            (lambda: (folder / "files/b.txt.pattern").symlink_to("/etc/passwd"), "not-a-file", "b.txt.pattern"),
            (lambda: (folder / "pattern.toml").write_text("format = 1\n"), "pattern-wrong", "pattern.toml: folder"),
        ):
            with self.subTest(code):
                change()
                before = tree_of(self.folder / "town")
                ran = sprout("new", "Buoy yard", "--pattern", "board", "--modules", "plugins", cwd=self.folder / "town")
                self.assertIn(ran.status, (2, 4), ran.out + ran.err)
                self.assertIn(f"[{code}]", ran.err)
                self.assertIn(place, ran.err.replace("\n", ""))
                self.assertEqual(tree_of(self.folder / "town"), before)
                file.write_text(text)
                for added in ("files/a.txt", "files/b.txt.pattern"):
                    (folder / added).unlink(missing_ok=True)

    def test_variants_leave_files_out_and_drop_leaves_modules(self) -> None:
        self.build("plugins")
        self.assert_ok(self.run_in("plugins", "pattern", "take", "tide-board", "--as", "board"))
        facts = self.folder / "town/sprout-patterns/board/pattern.toml"
        facts.write_text(facts.read_text() + '\n[[variant]]\nname = "bare"\nwithout = ["*.routes.mjs"]\n')
        self.assert_ok(self.run_in("plugins", "new", "Buoy yard", "--pattern", "board", "--variant", "bare"))
        made = self.folder / "town/plugins/buoy-yard"
        self.assertEqual([path.name for path in sorted(made.glob("*.mjs"))], ["index.mjs"])
        shown = self.assert_ok(self.run_in("plugins", "pattern", "show", "board"))
        self.assertIn("variant bare", shown.out)
        dropped = self.assert_ok(self.run_in("plugins", "pattern", "drop", "board"))
        self.assertIn("buoy-yard", dropped.out)
        self.assertFalse(any((self.folder / "town/sprout-patterns").rglob("*.pattern")))
        self.assertTrue(made.is_dir())
        self.assert_ok(self.run_in("plugins", "undo"))
        self.assertTrue(facts.is_file())

    def test_documents_hold_to_their_schemas(self) -> None:
        self.build("plugins")
        for words in (
            ("pattern", "take", "tide-board", "--as", "board"),
            ("pattern", "try", "board"),
            ("new", "Buoy yard", "--pattern", "board"),
            ("pattern", "list"),
            ("pattern", "show", "board"),
            ("pattern", "where", "plugins/buoy-yard/index.mjs:1"),
            ("pattern", "drop", "board"),
        ):
            with self.subTest(" ".join(words)):
                document = self.assert_ok(self.run_in("plugins", *words, "--format", "json")).json
                name = document["format"].split("/")[1]
                jsonschema.validate(document, json.loads((SCHEMAS / f"{name}.json").read_text("utf-8")))


class OnDjango(SiteCase):
    def test_a_made_module_becomes_others_with_irregular_names(self) -> None:
        self.assert_ok(self.sprout("new", "Berth register", "--record", BERTHS, "--record", BOOKINGS))
        self.assert_ok(self.sprout("enable", "berth_register"))
        self.assert_ok(self.sprout("pattern", "take", "berth_register", "--as", "two-records"))
        tried = self.assert_ok(self.sprout("pattern", "try", "two-records"))
        self.assertIn("1 served, no findings", tried.out)
        self.assertIn("Its own tests passed", tried.out)
        tests = next(self.site.glob("sprout-patterns/two-records/files/*/tests/test_*.pattern"))
        text = tests.read_text()
        tests.write_text(text.replace("        self.assert", "        self.fail()\n        self.assert", 1))
        failed = self.assert_ok(self.sprout("pattern", "try", "two-records"), 1)
        self.assertIn("Its own tests failed", failed.out)
        self.assertRegex(failed.out.replace("\n", ""), r"was made by +sprout-patterns/.*\.py\.pattern:\d+")
        tests.write_text(text)
        rows = self.write(
            "rows.csv", "module,Berth,Booking\nQuay geese,Grey mouse / Grey mice,Wharf\nIce house,Block,Cart\n"
        )
        made = self.assert_ok(self.sprout("new", "--pattern", "two-records", "--from", rows))
        self.assertIn("2 served, no findings", made.out)
        for name in ("quay_geese", "ice_house"):
            self.assert_ok(self.sprout("enable", name))
        ended = host_python("manage.py", "test", "quay_geese", "ice_house", cwd=self.site)
        self.assertIn("OK", ended.stderr)
        changed = host_python("manage.py", "makemigrations", "--check", cwd=self.site)
        self.assertEqual(changed.returncode, 0, changed.stdout)
        left = [
            path
            for path, held in tree_of(self.site / "quay_geese").items()
            if not path.endswith("sprout.pattern") and (b"berth" in held.lower() or b"booking" in held.lower())
        ]
        self.assertEqual(left, [])

    def test_a_module_by_hand_with_a_record_named_as_the_host_names_things(self) -> None:
        for path, text in MOORINGS.items():
            self.put(path, text)
        settings = self.site / "brindle_quay/settings.py"
        secret = '\nMOORINGS_API_KEY = "kX9fjw72hsQpLm"\nMOORINGS_SHOWN = 3\n'
        settings.write_text(settings.read_text() + secret)
        self.put(".env", "MOORINGS_PORT=8000\n")
        self.assert_ok(self.sprout("enable", "moorings"))
        taken = self.assert_ok(self.sprout("pattern", "take", "moorings", "--as", "orders"))
        self.assertIn("order_by", taken.out)
        facts = (self.site / "sprout-patterns/orders/pattern.toml").read_text()
        self.assertIn("⟦MOORINGS⟧_SHOWN = 3", facts)
        self.assertNotIn("kX9fjw72hsQpLm", facts)
        self.assertNotIn("8000", facts)
        tried = self.assert_ok(self.sprout("pattern", "try", "orders"))
        self.assertIn("1 served, no findings", tried.out)
        self.assert_ok(self.sprout("new", "Sail loft", "--pattern", "orders", "--record", "Rope"))
        self.assertIn("MOORINGS_SHOWN = 3\nSAIL_LOFT_SHOWN = 3\n", settings.read_text())
        views = (self.site / "sail_loft/views.py").read_text()
        self.assertIn("Rope.objects.order_by('-who')[: settings.SAIL_LOFT_SHOWN]", views)
        self.assertIn("<h1>Sail loft</h1>", (self.site / "sail_loft/templates/sail_loft/ropes.html").read_text())


class OnOtherKits(Case):
    def test_modules_by_hand_and_made_are_served_under_other_names(self) -> None:
        need_wordpress()
        for kit, module, more in (
            ("wordpress", "pilotage", ()),
            ("trytond", "berth_register", ("--varies", "Harbour clerks", "--varies", "Harbour master")),
            ("flask", "tide_board", ()),
        ):
            with self.subTest(f"{kit} {module}"):
                site = self.folder / f"{kit}-{module}"
                copy_host(kit, built_healthy(kit), site)
                self.assert_ok(self.on(kit, site, "pattern", "take", module, "--as", "one", *more))
                tried = self.assert_ok(self.on(kit, site, "pattern", "try", "one"))
                self.assertIn("1 served, no findings", tried.out)
                self.assertEqual("Its own tests passed" in tried.out, kit != "wordpress", tried.out)

    def on(self, kit: str, site: object, *words: str) -> Ran:
        from trials.hosts import runtime_options

        return sprout(*words, "--host", str(site), *runtime_options(kit), cwd=None, stdin=None)
