"""Modules and themes that nobody here wrote, as Debian packages them: all are read, and no finding is a false alarm."""

import shutil

from ...support import WORDPRESS, WordPressCase

PACKAGED = WORDPRESS / "others/usr/share/wordpress/wp-content"
MODULES = ("akismet", "http-authentication", "shibboleth", "xrds-simple")
THEMES = ("twentytwentyone", "twentytwentytwo", "twentytwentythree")


class Packaged(WordPressCase):
    def setUp(self) -> None:
        super().setUp()
        for name in MODULES:
            source = WORDPRESS / "others/akismet" if name == "akismet" else PACKAGED / "plugins" / name
            shutil.copytree(source, self.site / self.modules / name)
        for name in THEMES:
            shutil.copytree(PACKAGED / "themes" / name, self.site / "wp-content/themes" / name, symlinks=False)

    def test_they_are_surveyed_checked_and_drawn_without_a_finding(self):
        told = self.assert_ok(self.sprout("survey", "--format", "json")).json
        found = {one["name"]: one for one in told["setups"][0]["modules"]}
        for name in (*MODULES, *THEMES):
            self.assertTrue(found[name]["found"], name)
            self.assertTrue(found[name]["title"].strip(), name)
        static = self.assert_ok(self.sprout("check", "--static", "--format", "json"))
        self.assertEqual(static.json["summary"]["findings"], 0, static.out)
        graph = self.assert_ok(self.sprout("graph", "--format", "json")).json
        self.assertLessEqual({*MODULES, *THEMES}, {node["name"] for node in graph["modules"]})

    def test_with_all_of_them_on_the_running_host_has_no_finding_either(self):
        for name in MODULES:
            self.assert_ok(self.sprout("enable", name, "-q"))
        live = self.assert_ok(self.sprout("check", "--format", "json"))
        self.assertEqual(live.json["summary"]["findings"], 0, live.out)
        for name in MODULES:
            self.assertEqual(self.ladder(live, name)["enabled"], "pass", name)

    def test_a_theme_is_not_switched_on_or_off_here(self):
        ran = self.assert_ok(self.sprout("enable", "twentytwentyone"), 4)
        self.assertIn("is a theme", ran.err)
        self.assertIn("Appearance", ran.err)
        self.assert_ok(self.sprout("disable", "quayside"), 4)
