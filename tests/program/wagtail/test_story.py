"""A module with types of pages on a real Wagtail: made, placed in the tree, served, edited, and taken out again."""

import json
import unittest

from swift_sprout.core.brief import brief_from_toml
from swift_sprout.core.errors import WrongUse

from ...support import BRIEFS, DemoCase, brief_of, tree_of

BRIEF = brief_of("wagtail", "tide_pages")


class WagtailCase(DemoCase):
    kit = "wagtail"

    def tree(self) -> list[tuple[object, ...]]:
        return self.rows("select title, url_path, live from wagtailcore_page where depth > 2 order by path")


class Pages(WagtailCase):
    def test_types_of_pages_are_made_placed_once_served_and_checked(self):
        before = tree_of(self.site)
        self.assert_ok(self.sprout("new", "--brief", BRIEF, "-q"))
        off = self.assert_ok(self.sprout("check", "tide_pages", "--format", "json"), 1)
        self.assertEqual(self.ladder(off, "tide_pages")["registered"], "fail")
        told = self.assert_ok(self.sprout("enable", "tide_pages"))
        self.assertIn("place_tide_pages_pages: Created 3 pages.", told.out)
        wanted = [
            ("Water levels", "/home/water-levels/", 1),
            ("Spring tide", "/home/water-levels/spring-tide/", 1),
            ("Storm warning", "/home/storm-warning/", 0),
        ]
        self.assertEqual(self.tree(), wanted)
        self.assertIn("Created 0 pages.", self.assert_ok(self.sprout("settle", "tide_pages")).out)
        self.assertEqual(self.tree(), wanted)
        self.assertIn("No changes detected", self.manage("makemigrations", "--check", "--dry-run").stdout)
        checked = self.assert_ok(self.sprout("check", "--format", "json"))
        self.assertEqual(checked.json["summary"]["findings"], 0, checked.out)
        module = next(one for one in checked.json["setups"][0]["modules"] if one["module"] == "tide_pages")
        self.assertLessEqual({"/water-levels/", "/water-levels/spring-tide/"}, set(module["addresses"]))
        self.assertNotIn("/storm-warning/", module["addresses"])
        self.assertEqual(self.ladder(checked, "home")["served"], "pass")
        self.assertIn('page "Water levels" at /water-levels/', self.evidence(checked, "tide_pages", "placed"))
        tests = self.manage("test", "tide_pages")
        self.assertEqual(tests.returncode, 0, tests.stderr[-2000:])
        self.assert_ok(self.sprout("undo"))
        self.assert_ok(self.sprout("undo"))
        after = tree_of(self.site)
        self.assertEqual(
            {path for path in {*before, *after} if before.get(path) != after.get(path)}, {"brindle_quay.sqlite3"}
        )

    def test_a_field_is_added_to_a_type_and_its_migration_follows(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEF, "-q"))
        self.assert_ok(self.sprout("enable", "tide_pages", "-q"))
        self.change(
            "tide_pages/sprout.toml",
            '"note: long text, optional",',
            '"note: long text, optional",\n    "low_m: decimal(4,2), optional",',
        )
        self.assert_ok(self.sprout("refresh", "tide_pages"))
        self.assertIn('FieldPanel("low_m")', (self.site / "tide_pages/page_types.py").read_text())
        self.assert_ok(self.sprout("settle", "tide_pages"))
        self.assert_ok(self.sprout("check"))
        self.assertIn("low_m", {row[1] for row in self.rows("pragma table_info(tide_pages_tidepage)")})

    def test_a_type_is_added_on_one_line(self):
        self.assert_ok(self.sprout("new", "Quay talk", "--record", "Speaker: name text(40)", "-q"))
        self.assert_ok(self.sprout("enable", "quay_talk", "-q"))
        self.assert_ok(self.sprout("add", "page_type", "Talk page: held_on date, about long text", "--to", "quay_talk"))
        self.assert_ok(self.sprout("settle", "quay_talk"))
        self.assert_ok(self.sprout("check"))

    def test_the_page_of_a_module_that_is_taken_out_is_told(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEF, "-q"))
        self.assert_ok(self.sprout("enable", "tide_pages", "-q"))
        self.change("tide_pages/models.py", "from .page_types import", "# from .page_types import")
        ran = self.sprout("check", "tide_pages", "--format", "json")
        self.assertIn("installed.page-type-gone", self.codes(ran, "tide_pages"))

    def test_an_address_that_shadows_a_page_is_told(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEF, "-q"))
        self.assert_ok(self.sprout("enable", "tide_pages", "-q"))
        self.change("brindle_quay/urls.py", 'path("ferries/"', 'path("water-levels/"')
        ran = self.assert_ok(self.sprout("check", "tide_pages", "--format", "json"), 1)
        self.assertEqual(self.codes(ran, "tide_pages")[0], "routed.shadowed")

    def test_everything_that_django_carries_is_carried_here(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "berth_register.toml", "-q"))
        self.assert_ok(self.sprout("enable", "berth_register", "-q"))
        self.assert_ok(self.sprout("new", "--brief", BRIEF, "-q"))  # two modules with settings for each site
        self.assert_ok(self.sprout("enable", "tide_pages", "-q"))
        urls = (self.site / "brindle_quay/urls.py").read_text()
        self.assertLess(urls.index("berth_register.urls"), urls.index("include(wagtail_urls)"))
        checked = self.assert_ok(self.sprout("check", "--format", "json"))
        self.assertEqual(set(self.ladder(checked, "berth_register").values()), {"pass"})
        told = self.assert_ok(self.sprout("survey", "--format", "json")).json
        self.assertEqual((told["host"]["kit"], told["host"]["version"][:3]), ("wagtail", "8.0"))


class Said(unittest.TestCase):
    """What a brief may say of types of pages."""

    def wrong(self, lines: str) -> str:
        text = (
            f'[module]\nname = "Tides"\n[[record]]\nname = "Station"\nfields = ["name: text"]\n[[page_type]]\n{lines}\n'
        )
        with self.assertRaises(WrongUse) as caught:
            brief_from_toml(text, "sprout.toml")
        return "; ".join(f"{one.what} {one.remedy}" for one in caught.exception.problems)

    def test_contradictions(self):
        for lines, said in {
            'name = "Tide page"\nfields = ["title: text"]': "every page has one",
            'name = "Tide page"\nfields = ["all ->> Station"]': "one thing at most",
            'name = "Tide page"\nfields = ["a: text", "a: integer"]': "twice",
            'name = "Tide page"\nunder = ["Tide indx"]\n[[page_type]]\nname = "Tide index"': "Tide index",
            'name = "Tide page"\nfields = ["at -> Statoin"]': "Station",
            'name = "Station"': "is a record as well",
            'name = "Tide page"\nbelow = "/a b"': "cannot have the path",
        }.items():
            with self.subTest(lines):
                self.assertIn(said, self.wrong(lines))

    def test_it_comes_back_as_it_was_said(self):
        brief = brief_from_toml(BRIEF.read_text("utf-8"), "x")
        again = json.loads(json.dumps(brief.as_data()))["page_type"]
        self.assertEqual([one["name"] for one in again], ["Tide index", "Tide page", "Warning page"])
        self.assertEqual(
            again[2],
            {
                "name": "Warning page",
                "fields": ["text: long text, optional"],
                "summary": "A warning that is prepared before it is needed.",
                "placed": "Storm warning",
                "live": False,
            },
        )

    def test_other_kinds_of_hosts_name_the_nearest(self):
        from swift_sprout.hosts.registry import kits

        for name, kit in kits().items():
            if name == "wagtail":
                continue
            with self.subTest(name), self.assertRaises(WrongUse) as caught:
                kit.data.refuse_what_is_not_carried(["page_type"])
            self.assertIn("a page that shows a record", caught.exception.remedy)
