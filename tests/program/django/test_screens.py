"""What a check tries of the administration and of forms: on a host by hand, and only where nothing of it can stay."""

import shutil
import sqlite3
import tempfile
from pathlib import Path

from trials.field import prepared, styles

from ...support import Case, Ran, sprout

STYLE = next(one for one in styles() if one.name == "dredger")


class OnAHostByHand(Case):
    host: Path

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.host = prepared(STYLE, Path(folder.name).resolve())

    def setUp(self) -> None:
        super().setUp()
        self.site = self.folder / "site"
        shutil.copytree(self.host, self.site)
        self.trap = self.folder / "trap"

    def change(self, path: str, old: str, new: str) -> None:
        text = (self.site / path).read_text("utf-8")
        self.assertIn(old, text)
        (self.site / path).write_text(text.replace(old, new, 1), "utf-8")

    def check(self, status: int = 0) -> Ran:
        return self.assert_ok(sprout("check", "--format", "json", *STYLE.options, "--host", self.site), status)

    def told(self, ran: Ran) -> dict[str, str]:
        """Return the place of each finding that follows from no other, by its code."""
        setup = ran.json["setups"][0]
        every = [*setup["findings"], *(one for module in setup["modules"] for one in module["findings"])]
        return {one["code"]: f"{one['file']}:{one['line']}" for one in every if not one["follows_from"]}

    def rows(self, statement: str) -> list[tuple[object, ...]]:
        with sqlite3.connect(self.site / "dredger.sqlite3") as connection:
            return connection.execute(statement).fetchall()

    def test_actions_are_done_with_no_record_and_keep_nothing(self) -> None:
        self.change(
            "dredging/admin.py",
            "queryset.update(ends=",
            "Campaign.objects.all().delete()\n        queryset.update(ends=",
        )
        before = self.rows("select count(*) from dredging_campaign")
        self.assertEqual(self.told(self.check()), {})
        self.assertEqual(self.rows("select count(*) from dredging_campaign"), before)

    def test_actions_of_code_that_reaches_files_are_not_done(self) -> None:
        for line in (
            f"open({str(self.trap)!r}, 'w').close()",
            f"__import__('pathlib').Path({str(self.trap)!r}).touch()",
        ):
            with self.subTest(line):
                self.change(
                    "dredging/admin.py",
                    "        queryset.update(ends=",
                    f"        {line}\n        queryset.update(ends=",
                )
                self.assertEqual(self.told(self.check()), {})
                self.assertFalse(self.trap.exists())

    def test_searches_are_not_sent_to_code_that_reaches_files(self) -> None:
        self.change(
            "dredging/views.py",
            "                found = found.filter(title__icontains=",
            f"                open({str(self.trap)!r}, 'w').close()\n                found = found.filter(titel__icontains=",
        )
        self.assertEqual(self.told(self.check()), {})
        self.assertFalse(self.trap.exists())

    def test_a_search_breaks_at_its_line_and_made_up_values_alone_are_no_fault(self) -> None:
        self.change(
            "dredging/views.py",
            '            if self.form.cleaned_data["q"]:',
            '            int(self.request.GET.get("q") or 0)\n            if self.form.cleaned_data["q"]:',
        )
        self.assertEqual(self.told(self.check()), {})
        self.change("dredging/views.py", "found.filter(kind=", "found.filter(sort=")
        self.change("dredging/views.py", '            int(self.request.GET.get("q") or 0)\n', "")
        line = (self.site / "dredging/views.py").read_text("utf-8").partition("found.filter(sort=")[0].count("\n") + 1
        self.assertEqual(self.told(self.check(1)), {"served.form-breaks": f"dredging/views.py:{line}"})

    def test_a_button_for_some_is_pressed_and_closes_nothing(self) -> None:
        self.change("dredging/views.py", "    campaign.full_clean()\n", "    campaign.full_claen()\n")
        self.assertIn("served.form-breaks", self.told(self.check(1)))
        self.change("dredging/views.py", "    campaign.full_claen()\n", "    campaign.full_clean()\n")
        self.assertEqual(self.told(self.check()), {})
        self.assertEqual(self.rows("select ends from dredging_campaign"), [(None,)])

    def test_what_others_miss_of_a_module_that_stops_the_host_follows_from_it(self) -> None:
        self.change(
            "dredging/models.py", "from .querysets import CampaignQuerySet", "from .querysets import CampaignQuerySets"
        )
        ran = self.check(1)
        self.assertEqual({code.partition(".")[0] for code in self.told(ran)}, {"enabled"})
        others = [one for one in ran.json["setups"][0]["modules"] if one["module"] != "dredging"]
        self.assertTrue(all(one["follows_from"] for module in others for one in module["findings"]), others)

    def test_where_people_go_after_signing_in_is_an_address_or_a_path(self) -> None:
        said = 'LOGIN_REDIRECT_URL = "dredging:campaigns"'
        for value, wrong in (("/dredging/", False), ("home", False), ("https://quay.example/", False), ("hame", True)):
            with self.subTest(value):
                self.change("config/settings/base.py", said, f'LOGIN_REDIRECT_URL = "{value}"')
                said = f'LOGIN_REDIRECT_URL = "{value}"'
                self.assertEqual("routed.setting-names-nothing" in self.told(self.check(int(wrong))), wrong)
