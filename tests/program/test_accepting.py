"""What a project accepts: in its settings, beside a line, by an earlier check, and modules that are off on purpose."""

import json
import re
from datetime import date, timedelta

from ..support import SiteCase


class Accepting(SiteCase):
    def setUp(self) -> None:
        super().setUp()
        self.assert_ok(self.sprout("new", "Tide board", "--page", "/tides: Tides", "-q"))  # not switched on

    def told(self, *words: str, status: int) -> tuple[list[str], list[str], list[str]]:
        """Return the codes of the findings of a static check, those that were accepted, and the notes."""
        ran = self.assert_ok(self.sprout("check", "--static", "--format", "json", *words), status)
        (setup,) = ran.json["setups"]
        found = [one["code"] for module in setup["modules"] for one in module["findings"] if not one["follows_from"]]
        return found, [one["code"] for one in setup["accepted"]], setup["notes"]

    def test_what_the_settings_accept_is_counted_and_does_not_fail(self):
        found, accepted, _ = self.told(status=1)
        self.assertIn("registered.not-listed", found)
        self.assertEqual(accepted, [])
        self.put(
            "pyproject.toml",
            '[[tool.swift-sprout.accept]]\ncode = "registered.*"\nmodule = "tide_board"\nreason = "opens in spring"\n',
        )
        found, accepted, _ = self.told(status=0)
        self.assertEqual(found, [])
        self.assertIn("registered.not-listed", accepted)
        seen = self.assert_ok(self.sprout("check", "tide_board", "--static"))
        self.assertIn("no findings, 2 accepted", seen.out)
        self.assertIn("opens in spring", seen.out)

    def test_an_acceptance_ends_on_its_day(self):
        entry = '[[accept]]\ncode = "*"\nmodule = "tide_board"\nreason = "opens in spring"\nuntil = {}\n'
        self.put("swift-sprout.toml", entry.format(date.today()))
        self.assertEqual(self.told(status=0)[0], [])
        self.put("swift-sprout.toml", entry.format(date.today() - timedelta(1)))
        found, _, notes = self.told(status=1)
        self.assertTrue(found)
        self.assertIn("the acceptance of * of tide_board has ended on", notes[0])

    def test_one_that_meets_nothing_is_told_by_a_check_of_all(self):
        self.put("swift-sprout.toml", '[[accept]]\ncode = "served.error"\nreason = "an old page"\n')
        ran = self.sprout("check", "--format", "json")
        self.assertIn(
            "the acceptance of served.error no longer applies: nothing of the kind is found",
            ran.json["setups"][0]["notes"],
        )
        self.assertEqual(self.told("ferries", status=0)[2], [])

    def test_a_module_that_is_off_on_purpose_is_told_once_and_does_not_fail(self):
        self.put("swift-sprout.toml", 'off = ["tide_board", "ferries"]\n')
        found, accepted, notes = self.told(status=0)
        self.assertEqual(found, [])
        self.assertIn("registered.not-listed", accepted)
        self.assertIn("tide_board is off on purpose", notes)
        self.assertIn("ferries is said to be off on purpose, but it is on", notes)

    def test_a_comment_beside_the_line_accepts_what_it_names(self):
        settings = self.site / "brindle_quay/settings.py"
        comment = "#  swift-sprout: accept registered.not-listed because it opens in spring until 2999-01-01\n"
        settings.write_text(settings.read_text().replace("INSTALLED_APPS =", comment + "INSTALLED_APPS ="))
        found, accepted, _ = self.told(status=0)
        self.assertEqual((found, accepted[0]), ([], "registered.not-listed"))
        settings.write_text(settings.read_text().replace("2999-01-01", "2001-01-01"))
        found, accepted, notes = self.told(status=1)
        self.assertEqual(accepted, [])
        self.assertIn("has ended on 2001-01-01: registered.not-listed", notes[0])

    def test_a_team_begins_with_what_is_there_today_however_it_was_worded(self):
        self.sprout("check", "--static", "--output", self.folder / "today.json")
        self.assertEqual(self.told("--known", str(self.folder / "today.json"), status=0)[0], [])
        self.assert_ok(self.sprout("new", "Bell", "--page", "/bell: Bell", "-q"))
        found, accepted, _ = self.told("--known", str(self.folder / "today.json"), status=1)
        self.assertEqual(found, ["registered.not-listed"])
        self.assertIn("registered.not-listed", accepted)
        earlier = (self.folder / "today.json").read_text()
        (self.site / "today.json").write_text(
            re.sub(r'"(cause|effect|mend)": "(.*)"', r'"\1": "in other words"', earlier)
        )
        self.put("swift-sprout.toml", 'known = "today.json"\n')
        self.assertEqual(self.told(status=1)[0], found)

    def test_editors_see_what_is_accepted_as_suppressed(self):
        self.put("swift-sprout.toml", '[[accept]]\ncode = "registered.*"\nreason = "opens in spring"\n')
        self.assert_ok(self.sprout("check", "--static", "--output", self.folder / "found.sarif"))
        results = json.loads((self.folder / "found.sarif").read_text())["runs"][0]["results"]
        self.assertTrue(results)
        self.assertTrue(all(one["suppressions"][0]["justification"] == "opens in spring" for one in results))

    def test_settings_that_are_wrong_are_refused_with_their_place(self):
        for text, told in (
            ('[[accept]]\ncode = "a"\n', "accept[0].reason: missing key"),
            ('[[accept]]\ncode = "a"\nreason = " "\n', "accept[0] has no reason"),
            ('[[accept]]\ncode = "a"\nreason = "b"\nuntil = "soon"\n', "is no day"),
            ('[[accept]]\ncode = "a"\nreason = "b"\nmodul = "c"\n', "accept[0].modul: unknown key"),
            ("of = []\n", "of: unknown key"),
            ("off =\n", "cannot be read"),
        ):
            self.put("swift-sprout.toml", text)
            ran = self.assert_ok(self.sprout("check", "--static"), 4)
            self.assertIn("settings-wrong", ran.err)
            self.assertIn(told, " ".join(ran.err.split()))
        (self.site / "swift-sprout.toml").unlink()
        self.put("ill.json", "{}")
        ran = self.assert_ok(self.sprout("check", "--static", "--known", self.site / "ill.json"), 4)
        self.assertIn("known-unreadable", ran.err)
