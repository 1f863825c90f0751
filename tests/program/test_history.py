"""What was done to a host, change set by change set, and one of them taken back that is not the last."""

from __future__ import annotations

import json
from datetime import UTC, datetime, timedelta

import jsonschema

from ..support import REPOSITORY, SiteCase, tree_of

SCHEMA = REPOSITORY / "src/swift_sprout/reports/schemas/history.json"


class History(SiteCase):
    without_runtime = ("new", "add", "history")

    def told(self) -> list[tuple[int, str]]:
        ran = self.assert_ok(self.sprout("history", "--format", "json"))
        jsonschema.validate(ran.json, json.loads(SCHEMA.read_text("utf-8")))
        for one in ran.json["changes"]:
            self.assertLess(datetime.now(UTC) - datetime.fromisoformat(one["when"]), timedelta(minutes=10))
        return [(one["number"], one["title"]) for one in ran.json["changes"]]

    def test_the_newest_stands_first_and_what_was_undone_has_gone(self) -> None:
        self.assertIn("No change set", self.assert_ok(self.sprout("history")).out)
        self.assert_ok(self.sprout("new", "Signal mast", "-q"))
        self.assert_ok(self.sprout("enable", "signal_mast", "-q"))
        self.assertEqual(self.told(), [(2, "enable signal_mast"), (1, "new signal_mast")])
        self.assert_ok(self.sprout("undo"))
        self.assertEqual(self.told(), [(1, "new signal_mast")])
        self.assertIn("signal_mast/apps.py", self.assert_ok(self.sprout("history", "-v")).out)

    def test_one_that_is_not_the_last_is_taken_back_where_nothing_later_touches_its_files(self) -> None:
        before = tree_of(self.site)
        self.assert_ok(self.sprout("new", "Signal mast", "-q"))
        self.assert_ok(self.sprout("new", "Buoy yard", "-q"))
        self.assert_ok(self.sprout("add", "page", "/yard: The yard", "--to", "buoy_yard", "-q"))
        there = tree_of(self.site)
        refused = self.assert_ok(self.sprout("undo", "2"), 4)
        self.assertIn("[undo-not-last]", refused.err)
        self.assertIn("change set 3", " ".join(refused.err.split()))
        self.assertEqual(tree_of(self.site), there)
        self.assertIn("signal_mast/", self.assert_ok(self.sprout("undo", "1", "--preview")).out)
        self.assertEqual(tree_of(self.site), there)
        self.assert_ok(self.sprout("undo", "1"))
        self.assertFalse((self.site / "signal_mast").exists())
        self.assertEqual([number for number, _ in self.told()], [3, 2])
        self.assertIn("[undo-unknown]", self.assert_ok(self.sprout("undo", "1"), 4).err)
        for _ in range(2):
            self.assert_ok(self.sprout("undo"))
        self.assertEqual(tree_of(self.site), before)

    def test_a_file_that_somebody_changed_since_is_not_written_over(self) -> None:
        self.assert_ok(self.sprout("new", "Signal mast", "-q"))
        self.assert_ok(self.sprout("new", "Buoy yard", "-q"))
        self.change("signal_mast/views.py", "SignalMastPage", "MastPage")
        self.assertIn("[undo-changed-since]", self.assert_ok(self.sprout("undo", "1"), 4).err)
