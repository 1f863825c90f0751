"""One brief, unchanged, on three hosts that differ in everything; and one page that shows all of them."""

import html
from pathlib import Path

from ...support import BRIEFS, DJANGO, TRYTOND, PlatformCase, SiteCase, WordPressCase, need_wordpress, sprout


class ThreeHosts(WordPressCase):
    def make_on(self, case: type[SiteCase]) -> SiteCase:
        """Make the berth register on a host of another kind."""
        other = case("run")
        other.setUp()
        self.addCleanup(other.doCleanups)
        return other

    def test_the_same_brief_is_made_enabled_checked_and_served_on_all_of_them(self):
        need_wordpress()
        brief = BRIEFS / "berth_register.toml"
        hosts = [self.make_on(SiteCase), self.make_on(PlatformCase), self]
        for host in hosts:
            self.assert_ok(host.sprout("new", "--brief", brief, "-q"))
            self.assert_ok(host.sprout("enable", "berth_register", "-q"))
            checked = self.assert_ok(host.sprout("check", "berth_register", "--format", "json")).json
            ladder = checked["setups"][0]["modules"][0]["ladder"]
            self.assertEqual({step["state"] for step in ladder}, {"pass"}, checked["host"])
        site, platform, quay = (str(host.site) for host in hosts)
        page = self.folder / "three.html"
        also = ["--also", f"{platform},{TRYTOND}", "--also", quay]
        words: list[str | Path] = [
            "check",
            "berth_register",
            "--host",
            site,
            "--runtime",
            DJANGO,
            *also,
            "--output",
            page,
        ]
        self.assert_ok(sprout(*words))
        shown = html.unescape(page.read_text("utf-8"))
        self.assertIn("Check of Django, trytond, WordPress modules", shown)
        for served in ("/berths/", "/brindle_quay/r/berth_register", "/berth-register/berths/"):
            self.assertIn(served, shown)
        self.assertNotIn("http://", shown.replace("http://www.w3.org", ""))
