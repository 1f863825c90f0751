"""Trees of pages as they come to be on sites that have grown: two sites, renamed types, rows that are left behind."""

from ...support import DemoCase, Ran


class Grown(DemoCase):
    kit = "wagtail"
    brief = "tide_pages"

    def check(self, status: int = 1) -> Ran:
        return self.assert_ok(self.sprout("check", "tide_pages", "--format", "json"), status)

    def test_a_page_of_a_second_site_is_called_there(self):
        self.rows(
            "insert into wagtailcore_site (hostname, site_name, port, root_page_id, is_default_site) "
            "select 'tides.example.org', 'Tides', 80, id, 0 from wagtailcore_page where slug = 'water-levels'"
        )
        self.check(0)  # a page that stands on both is called on the default one
        self.rows(
            "update wagtailcore_site set root_page_id = "
            "(select id from wagtailcore_page where slug = 'storm-warning') where is_default_site = 1"
        )
        ran = self.sprout("check", "tide_pages", "--format", "json")
        self.assertNotIn("placed.page-below-no-site", self.codes(ran, "tide_pages"))
        module = next(one for one in ran.json["setups"][0]["modules"] if one["module"] == "tide_pages")
        self.assertLessEqual({"/", "/spring-tide/"}, set(module["addresses"]))
        self.assertEqual(self.ladder(ran, "tide_pages")["served"], "pass")

    def test_a_type_that_is_renamed_without_a_migration(self):
        for path in ("page_types.py", "models.py"):
            text = (self.site / "tide_pages" / path).read_text()
            (self.site / "tide_pages" / path).write_text(text.replace("WarningPage", "AlarmPage"))
        codes = self.codes(self.check(), "tide_pages")
        self.assertEqual(codes[0], "installed.drift")
        self.assertIn("installed.page-type-gone", codes)

    def test_a_module_behind_the_pages_is_told(self):
        urls = self.site / "brindle_quay/urls.py"
        text = urls.read_text()
        line = '    path("ferries/", include("ferries.urls")),\n'
        last = '    path("", include(wagtail_urls)),\n'
        urls.write_text(text.replace(line, "").replace(last, last + line))
        ran = self.assert_ok(self.sprout("check", "ferries", "--format", "json"), 1)
        self.assertEqual(self.codes(ran, "ferries")[0], "routed.behind-catch-all")

    def test_two_modules_place_pages_each_by_a_command_of_its_own(self):
        brief = self.write(
            "brief.toml",
            '[module]\nname = "Quay news"\n[[page_type]]\nname = "News page"\nplaced = "News of the quay"\n',
        )
        self.assert_ok(self.sprout("new", "--brief", brief, "-q"))
        told = self.assert_ok(self.sprout("enable", "quay_news"))
        self.assertIn("place_quay_news_pages: Created 1 page.", told.out)
        both = self.assert_ok(self.sprout("settle"))
        self.assertIn("place_tide_pages_pages: Created 0 pages.", both.out)
        self.assertIn("place_quay_news_pages: Created 0 pages.", both.out)
