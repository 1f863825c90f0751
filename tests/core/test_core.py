"""The core by itself: names, fields, briefs, changes, ladders, findings."""

import tomllib
import unittest

from hypothesis import given
from hypothesis import strategies as st

from swift_sprout.core.brief import brief_from_toml
from swift_sprout.core.brieftext import brief_text
from swift_sprout.core.changes import ChangeSet
from swift_sprout.core.errors import WrongUse
from swift_sprout.core.fields import TYPES, parse_field, parse_record_line, spell_field
from swift_sprout.core.findings import Rule, RuleBook, Severity, first_cause_first
from swift_sprout.core.ladder import Rung, State, build_ladder
from swift_sprout.core.names import name_family
from swift_sprout.core.nearest import did_you_mean
from swift_sprout.core.plurals import plural_of, singular_of
from swift_sprout.core.tomlplaces import line_of

REGULAR = {"berth", "ferry", "buoy", "wharf", "quay", "mast", "lass", "rope", "dory", "branch", "box", "hero", "life"}


class Names(unittest.TestCase):
    def test_one_name_in_the_whole_family_out(self):
        family = name_family("Tide board", owner="brindle-quay")
        self.assertEqual(
            family.spellings(),
            {
                "title": "Tide board",
                "snake": "tide_board",
                "kebab": "tide-board",
                "dotted": "tide.board",
                "joined capitals": "TideBoard",
                "first letter lower": "tideBoard",
                "constant": "TIDE_BOARD",
                "singular": "tide_board",
                "plural": "tide_boards",
                "with owner": "brindle_quay_tide_board",
            },
        )

    def test_every_spelling_gives_the_same_family(self):
        for text in (
            "Tide board",
            "tide_board",
            "tide-board",
            "TideBoard",
            "tideBoard",
            "TIDE_BOARD",
            "  Tide  board ",
        ):
            self.assertEqual(name_family(text).words, ("tide", "board"), text)

    def test_accents_and_apostrophes(self):
        self.assertEqual(name_family("Café Ørsted's straße").snake, "cafe_orsteds_strasse")

    def test_plurals(self):
        for singular, plural in {
            "berth": "berths",
            "ferry": "ferries",
            "buoy": "buoys",
            "wharf": "wharves",
            "sheep": "sheep",
            "mooring pass": "mooring passes",
            "person": "people",
        }.items():
            self.assertEqual(name_family(singular).plural.title.lower(), plural)
            self.assertEqual(name_family(plural).singular.title.lower(), singular)

    @given(
        st.sampled_from(
            [
                "berth",
                "ferry",
                "buoy",
                "wharf",
                "quay",
                "mast",
                "lass",
                "rope",
                "dory",
                "pass",
                "branch",
                "box",
                "hero",
                "life",
                "fish",
            ]
        )
    )
    def test_the_plural_of_a_plural_is_the_plural(self, word):
        plural = plural_of(singular_of(word))
        self.assertEqual(plural_of(singular_of(plural)), plural)


fields = st.builds(
    lambda name, kind, options: f"{name}: {kind}" + "".join(options),
    st.from_regex(r"[a-z][a-z0-9]{0,8}(_[a-z]{1,5})?", fullmatch=True),
    st.sampled_from(
        [kind for kind in TYPES if kind != "choice"] + ["text(8)", "decimal(5,1)", 'choice(a, b="B (c), d")']
    ),
    st.lists(st.sampled_from([", optional", ", unique", ', help "so, (so)"']), unique=True),
)


class Fields(unittest.TestCase):
    @given(fields)
    def test_a_field_written_back_reads_the_same(self, text):
        field = parse_field(text)
        self.assertEqual(parse_field(spell_field(field)), field)

    def test_relations(self):
        field = parse_field("berth -> Berth (bookings), optional")
        self.assertEqual((field.type, field.target, field.reverse, field.optional), ("one", "Berth", "bookings", True))
        self.assertEqual(parse_field("crew ->> harbour_office.Clerk").type, "many")

    def test_a_record_line(self):
        name, found = parse_record_line(
            "Booking: berth -> Berth, vessel text(60), optional, state choice(asked, granted), default asked"
        )
        self.assertEqual(name, "Booking")
        self.assertEqual([one.name for one in found], ["berth", "vessel", "state"])
        self.assertTrue(found[1].optional)
        self.assertEqual(found[2].default, "asked")

    def test_mistakes(self):
        for text, code in {
            "station": "field-without-type",
            "station: txt": "field-type",
            "station: text(0)": "field-size",
            "depth: decimal(2,4)": "field-size",
            "depth: decimal(4)": "field-size",
            "level: integer(3)": "field-size",
            "state: choice()": "field-choice",
            "state: choice(a, a)": "field-choice",
            "state: choice(潮)": "field-choice",
            "level: integer, default high": "field-default",
            "on: yes/no, default maybe": "field-default",
            "day: date, default 2026-13-01": "field-default",
            "fee: decimal(4,2), default 100": "field-default",
            "note: text, optionel": "field-option",
            "9lives: text": "field-name",
            "note: text(4": "field-unbalanced",
            "berth -> 9": "field-target",
        }.items():
            with self.subTest(text), self.assertRaises(WrongUse) as caught:
                parse_field(text)
            self.assertEqual(caught.exception.code, code, text)
            self.assertTrue(caught.exception.remedy, text)


class Briefs(unittest.TestCase):
    TEXT = (
        'format = "swift-sprout/brief/1"\n[module]\nname = "Berths"\n# remark\n[[record]]\nname = "Berth"\n'
        'fields = ["name: text(4)"]\n[[record]]\nname = "Booking"\nfields = ["berth -> Berth"]\n'
        '[[page]]\npath = "/berths"\nshows = "Berth"\naccess = "may read Berth"\n'
    )

    def test_a_brief_written_back_reads_the_same(self):
        brief = brief_from_toml(self.TEXT, "sprout.toml")
        again = brief_from_toml(brief_text(brief), "sprout.toml")
        self.assertEqual(again, brief)
        self.assertEqual(tomllib.loads(brief_text(brief)), brief.as_data())

    def test_lines(self):
        self.assertEqual(line_of(self.TEXT, ("module", "name")), 3)
        self.assertEqual(line_of(self.TEXT, ("record", 1, "fields")), 10)
        self.assertEqual(line_of(self.TEXT, ("page", 0, "shows")), 13)
        self.assertEqual(line_of(self.TEXT, ("format",)), 1)

    @given(st.text(min_size=1, max_size=60))
    def test_any_summary_survives(self, summary):
        brief = brief_from_toml(self.TEXT, "x")._replace(summary=summary)
        self.assertEqual(brief_from_toml(brief_text(brief), "x").summary, summary)


class Changes(unittest.TestCase):
    def test_tree_and_diff(self):
        changes = ChangeSet("try")
        changes.add("a/new.py", None, b"one\n")
        changes.add("b.py", b"old\n", b"new\n")
        changes.add("same.py", b"x", b"x")
        self.assertEqual(changes.tree(), ["├─ a/", "│  └─ + new.py  4 B", "└─ ~ b.py  4 B"])
        self.assertIn("+new", changes.diff())
        self.assertEqual(changes.made(), ["a/new.py"])

    def test_edits_of_one_file_follow_each_other(self):
        changes = ChangeSet("try")
        changes.add("b.py", b"1", b"2")
        changes.add("b.py", b"2", b"3")
        self.assertEqual([(one.before, one.after) for one in changes.changes], [(b"1", b"3")])
        with self.assertRaises(ValueError):
            changes.add("b.py", b"1", b"4")


class Ladders(unittest.TestCase):
    def test_what_lies_above_a_failed_rung_is_blocked(self):
        ladder = build_ladder({Rung.FOUND: (State.PASS, "here")}, {Rung.REGISTERED: "not listed"})
        self.assertEqual(ladder.state(Rung.FOUND), State.PASS)
        self.assertEqual(ladder.state(Rung.DESCRIBED), State.NOT_ASKED)
        self.assertEqual(ladder.state(Rung.SERVED), State.BLOCKED)
        self.assertEqual(ladder.stops_at.rung if ladder.stops_at else None, Rung.REGISTERED)
        self.assertFalse(ladder.served)

    def test_causes_come_before_what_follows_from_them(self):
        book = RuleBook(
            [
                Rule(
                    "served.error", Rung.SERVED, Severity.ERROR, "{view} fails", "500", "mend", follows=("installed.*",)
                ),
                Rule("installed.drift", Rung.INSTALLED, Severity.ERROR, "changed", "500", "migrate"),
                Rule("described.note", Rung.DESCRIBED, Severity.NOTE, "a note", "", ""),
            ]
        )
        found = [
            book.finding("served.error", "tides", view="list"),
            book.finding("described.note", "tides"),
            book.finding("installed.drift", "tides"),
        ]
        ordered = first_cause_first(found)
        self.assertEqual([one.code for one in ordered], ["installed.drift", "described.note", "served.error"])
        self.assertEqual(ordered[-1].follows_from, "installed.drift")

    def test_a_cause_may_be_one_at_the_same_line_only(self):
        rule = ("changed", "500", "mend")
        book = RuleBook(
            [
                Rule("served.error", Rung.SERVED, Severity.ERROR, *rule, follows=("enabled.name@line",)),
                Rule("enabled.name", Rung.ENABLED, Severity.ERROR, *rule),
            ]
        )
        for file, line, follows in (("a.py", 3, "enabled.name"), ("a.py", 4, ""), ("b.py", 3, "")):
            with self.subTest(file=file, line=line):
                found = [
                    book.finding("served.error", "tides", file, line),
                    book.finding("enabled.name", "tides", "a.py", 3),
                ]
                told = {one.code: one.follows_from for one in first_cause_first(found)}
                self.assertEqual(told["served.error"], follows)

    def test_a_cause_of_one_line_does_not_explain_what_fails_elsewhere(self):
        rule = ("changed", "500", "mend")
        book = RuleBook(
            [
                Rule("served.error", Rung.SERVED, Severity.ERROR, *rule, follows=("enabled.*", "enabled.name@line")),
                Rule("enabled.name", Rung.ENABLED, Severity.ERROR, *rule, of_one_line=True),
                Rule("enabled.off", Rung.ENABLED, Severity.ERROR, *rule),
            ]
        )
        for other, line, follows in (
            ("enabled.name", 3, "enabled.name"),
            ("enabled.name", 9, ""),
            ("enabled.off", 9, "enabled.off"),
        ):
            with self.subTest(other=other, line=line):
                found = [book.finding("served.error", "tides", "a.py", 3), book.finding(other, "tides", "a.py", line)]
                told = {one.code: one.follows_from for one in first_cause_first(found)}
                self.assertEqual(told["served.error"], follows)

    def test_of_two_that_explain_each_other_the_one_told_first_stays(self):
        rule = ("changed", "500", "mend")
        book = RuleBook(
            [
                Rule("installed.step", Rung.INSTALLED, Severity.ERROR, *rule, follows=("installed.*",)),
                Rule("installed.table", Rung.INSTALLED, Severity.ERROR, *rule, follows=("installed.*",)),
                Rule("installed.row", Rung.INSTALLED, Severity.ERROR, *rule, follows=("installed.table",)),
            ]
        )
        for order in (("installed.step", "installed.table"), ("installed.table", "installed.step")):
            ordered = first_cause_first([book.finding(code, "tides") for code in (*order, "installed.row")])
            self.assertEqual([one.code for one in ordered if not one.follows_from], [order[0]])

    def test_nearest(self):
        self.assertIn("Nearest known: summary", did_you_mean("sumary", ["summary", "name"]))
        self.assertIn("Known: a, b", did_you_mean("zzz", ["b", "a"]))
