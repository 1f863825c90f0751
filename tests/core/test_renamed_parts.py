"""A record's and an owner's other name: in the text of a brief, in what people wrote, before a module's name."""

from __future__ import annotations

import re
import unittest

from swift_sprout.core.brief import brief_from_toml
from swift_sprout.core.fields import parse_field
from swift_sprout.core.names import NameFamily, name_family
from swift_sprout.core.parts.records import Record
from swift_sprout.core.renaming.briefs import rename_in_brief
from swift_sprout.core.renaming.owners import OwnerRenaming, owner_in
from swift_sprout.core.renaming.records import RenamedRecords, record_renaming

BRIEF = """\
format = "swift-sprout/brief/1"

[module]
name = "Tide board"

[[record]]
name = "Tide"
fields = ["station: text(80)"]

[[record]]
name = "Reading"
fields = [
    "tide: -> Tide (readings)",
    "tide_gauge: text(20)",  # of the Tide
]

[[permission]]
name = "Publish tide"
on = "tide"

[[group]]
name = "Watch"
may = { Tide = "read change", "Reading" = "all" }

[[page]]
path = "/tides"
title = "Tides"
shows = "Tide"
access = "may change Tide"
"""


def record(name: str) -> Record:
    return Record(name_family(name, what="record"), (parse_field("station: text(80)"),))


class InABrief(unittest.TestCase):
    def renamed(self, take: bool = False) -> str:
        renaming = record_renaming(record("Tide"), record("High water"), [name_family("Tide board")])
        found = rename_in_brief(BRIEF, "tide_board/sprout.toml", renaming, take)
        self.assertEqual(len(found.sure), 6)
        self.assertEqual({one.doubtful for one in found.doubtful}, {not take})
        for one in found.sure:
            self.assertEqual(BRIEF[one.start : one.start + len(one.before)], one.before)
            self.assertEqual(BRIEF.count("\n", 0, one.start) + 1, one.line)
        return found.text

    def test_what_refers_to_the_record_follows_and_words_stay(self) -> None:
        text = self.renamed()
        brief = brief_from_toml(text, "sprout.toml")
        self.assertEqual([one.name.title for one in brief.records], ["High water", "Reading"])
        self.assertEqual(brief.records[1].fields[0].target, "High water")
        self.assertEqual([one.name for one in brief.records[1].fields], ["tide", "tide_gauge"])
        self.assertEqual(brief.pages[0].path, "/tides")
        for kept in ('name = "Tide board"', 'title = "Tides"', '"Publish tide"', "# of the Tide"):
            self.assertIn(kept, text)
        for now in ('"may change High water"', 'on = "high water"', 'shows = "High water"'):
            self.assertIn(now, text)

    def test_words_follow_where_they_are_taken(self) -> None:
        text = self.renamed(take=True)
        self.assertIn('path = "/high_waters"', text)
        self.assertIn('name = "Tide board"', text)


class InWhatPeopleWrote(unittest.TestCase):
    MADE = b"class Tide(Model):\n    tide_count = 1\n\n\ndef tide_list(tides):\n    return [tide for tide in tides]\n"
    NOW = (
        b"class HighWater(Model):\n    tide_count = 1\n\n\ndef high_water_list(high_waters):\n"
        b"    return [high_water for high_water in high_waters]\n"
    )

    def setUp(self) -> None:
        joined = re.compile(r"(?:\b(?:view|change)_)$")
        pair = [(record("Tide"), record("High water"))]
        made, now = {"models.py": self.MADE, "a.html": b"-"}, {"models.py": self.NOW, "a.html": b"-"}
        others = [name_family("Tide board")]
        self.names = RenamedRecords(pair, others, made, now, "tide_board", ("*/old/*.py",), "tide_board", joined)

    def changed(self, path: str, text: str) -> str:
        return self.names.changed(path, text.encode())[0].decode()

    def test_a_made_file_tells_which_of_its_words_mean_the_record(self) -> None:
        self.assertEqual(self.changed("models.py", self.MADE.decode()), self.NOW.decode())
        self.assertEqual(self.changed("models.py", "tide_count = len(tides)"), "tide_count = len(high_waters)")

    def test_elsewhere_only_what_is_no_plain_word_follows(self) -> None:
        self.assertEqual(
            self.changed("reports.py", "tide = Tide(); tide_list()"), "tide = HighWater(); high_water_list()"
        )
        self.assertEqual(self.changed("reports.py", '"tide_board.change_tide"'), '"tide_board.change_highwater"')
        self.assertEqual(
            self.changed("reports.py", "TideBoardConfig, Tides of the Tide board"),
            "TideBoardConfig, Tides of the Tide board",
        )
        self.assertEqual(self.changed("old/0001.py", "Tide"), "Tide")
        _, doubtful = self.names.changed("reports.py", b"a tide")
        self.assertEqual([(one.line, one.before) for one in doubtful], [(1, "tide")])

    def test_a_file_of_the_name_keeps_it_in_imports(self) -> None:
        self.assertEqual(self.changed("models.py", "from .tide import Tide"), "from .tide import HighWater")
        pair = [(record("Tide"), record("High water"))]
        moved = RenamedRecords(pair, [], {"tide.py": b"class Tide: pass"}, {"high_water.py": b"class HighWater: pass"})
        self.assertEqual(moved.changed("a.py", b"from .tide import Tide")[0], b"from .high_water import HighWater")

    def test_files_outside_follow_where_they_import_it(self) -> None:
        names_module = re.compile(r"\btide_board\b")
        importing = b"from tide_board.models import Tide\nprint(Tide)\n"
        after, _ = self.names.elsewhere("a.py", importing, names_module)
        self.assertEqual(after, b"from tide_board.models import HighWater\nprint(HighWater)\n")
        for other in (b"class Tide: pass\n", b"import tide_board\n\n\nclass Tide: pass\n"):
            self.assertEqual(self.names.elsewhere("a.py", other, names_module)[0], other)


class OfAnOwner(unittest.TestCase):
    MODULE = NameFamily("Tide board", ("tide", "board"))

    def test_it_changes_before_the_modules_name_alone(self) -> None:
        renaming = OwnerRenaming(self.MODULE, ("brindle", "quay"), ("harbour", "office"))
        for before, after in (
            ("namespace BrindleQuay\\TideBoard;", "namespace HarbourOffice\\TideBoard;"),
            ('"BrindleQuay\\\\TideBoard\\\\": "src/"', '"HarbourOffice\\\\TideBoard\\\\": "src/"'),
            ('"brindle-quay/tide-board"', '"harbour-office/tide-board"'),
            ("brindle_quay_tide_board", "harbour_office_tide_board"),
            ("BrindleQuay\\BerthRegister", "BrindleQuay\\BerthRegister"),
            ("the tide board of Brindle Quay", "the tide board of Brindle Quay"),
        ):
            with self.subTest(before):
                self.assertEqual(renaming.apply(before), after)

    def test_an_owner_of_one_word_is_parted_as_its_place_parts_words(self) -> None:
        renaming = OwnerRenaming(self.MODULE, ("quay",), ("harbour", "office"))
        for before, after in (
            ("quay/tide-board", "harbour-office/tide-board"),
            ("quay_tide_board", "harbour_office_tide_board"),
            ("Quay\\TideBoard", "HarbourOffice\\TideBoard"),
            ("quay.tide_board", "harbour_office.tide_board"),
            ("the quay and its tide board", "the quay and its tide board"),
        ):
            with self.subTest(before):
                self.assertEqual(renaming.apply(before), after)

    def test_it_is_read_from_code_where_no_brief_says_it(self) -> None:
        self.assertEqual(owner_in(["namespace BrindleQuay\\TideBoard\\Admin;"], self.MODULE), ("brindle", "quay"))
        self.assertEqual(owner_in(["use A\\TideBoard;", "use B\\TideBoard;"], self.MODULE), ())
        self.assertEqual(owner_in(["templates/tide_board/list.html"], self.MODULE), ())
