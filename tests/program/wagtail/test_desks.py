"""What editors open is opened: what breaks there is told, and nothing of it stays."""

import sqlite3
from contextlib import closing

from ...support import StyleCase

TABLES = ("wagtailcore_page", "wagtailcore_revision", "auth_user", "crew_person", "wagtailcore_modellogentry")
HOOKS = "articles/wagtail_hooks.py"


class Desks(StyleCase):
    """A site in another's style, with records, pages, settings and an API of its own."""

    kit = "wagtail"
    style = "cormorant"

    def rows(self) -> dict[str, int]:
        with closing(sqlite3.connect(self.site / "gannet.sqlite3")) as database:
            return {name: database.execute(f"select count(*) from {name}").fetchone()[0] for name in TABLES}

    def test_nothing_that_is_opened_stays(self) -> None:
        rows, files = self.rows(), self.files()
        self.assertEqual(self.findings(), [])
        self.assertEqual((self.rows(), self.files()), (rows, files))

    def test_what_breaks_is_told_at_its_line_with_what_editors_do(self) -> None:
        crew, people = "crew/wagtail_hooks.py", "crew/models.py"
        for path, old, new, line, step in (
            (HOOKS, "-latest_revision_created_at", "-latest_revised", 30, "listing the pages beside"),
            (crew, 'ordering = ["name"]', 'ordering = ["names"]', 16, "listing the records person"),
            (people, '"crew/person.html"', '"crew/persons.html"', 7, "previewing a record person"),
            ("articles/blocks.py", 'cleaned["height"] <', 'cleaned["hight"] <', 27, "saving the field body"),
            ("articles/models.py", 'APIField("intro")', 'APIField("introd")', 62, "asking the API for ArticlePage"),
            ("gannet/api.py", ".live().public()", ".lives().public()", 14, "asking the API for articles"),
            ("site_parts/models.py", 'FieldPanel("notice")', 'FieldPanel("notices")', 9, "editing the settings"),
        ):
            with self.subTest(f"{path}: {new}"):
                text = (self.site / path).read_text("utf-8")
                self.change(path, old, new)
                ran = self.sprout("check", "--format", "json")
                (self.site / path).write_text(text, "utf-8")
                setup = ran.json["setups"][0]
                every = [*setup["findings"], *(one for module in setup["modules"] for one in module["findings"])]
                broken = [one for one in every if one["code"] == "served.desk-breaks"]
                self.assertTrue(broken, ran.out)
                self.assertEqual(broken[0]["file"], path)
                self.assertLessEqual(abs(broken[0]["line"] - line), 1)
                self.assertIn(step, broken[0]["cause"])

    def test_nothing_is_opened_where_the_sites_own_code_runs_programs(self) -> None:
        self.change("crew/models.py", '"crew/person.html"', '"crew/persons.html"')
        self.change("site_parts/context.py", "from .models", "import subprocess\n\nfrom .models")
        self.assertEqual([code for code, *_ in self.findings("crew")], [])

    def test_screens_that_a_view_set_leaves_out_are_no_fault(self) -> None:
        old = '    search_fields = ["name"]\n'
        self.change(
            "crew/wagtail_hooks.py", old, f"{old}    copy_view_enabled = False\n    inspect_view_enabled = False\n"
        )
        self.change(
            "crew/models.py", "    def get_preview_template", "    preview_modes = []\n\n    def get_preview_template"
        )
        self.assertEqual(self.findings("crew"), [])

    def test_who_holds_just_the_right_gets_the_page_below_the_administration(self) -> None:
        ran = self.sprout("check", "articles", "--format", "json")
        self.assertEqual(self.codes(ran, "articles"), [])
        self.change("articles/admin_views.py", '"articles.change_articlepage"', '"articles.change_articlespage"')
        self.assertIn(("permitted.holder-refused", "articles/admin_views.py", 8), self.findings("articles"))
