"""Patterns in the core: marks and what fills them in, facts, lines of lists, and what a module keeps of its pattern."""

from __future__ import annotations

import re
import unittest

from swift_sprout.core.errors import Refused, WrongUse
from swift_sprout.core.names import NameFamily
from swift_sprout.core.patterns.entries import stands_alone, with_entry
from swift_sprout.core.patterns.facts import Entry, Facts, Variant, left_out
from swift_sprout.core.patterns.marks import Filling, Span, Template, Unfilled, marked
from swift_sprout.core.patterns.origin import Origin
from swift_sprout.core.patterns.pattern import Pattern
from swift_sprout.core.patterns.words import Value, Word, WordKind, value_of

MODULE = Word(WordKind.MODULE, value_of(WordKind.MODULE, "Tide board"))
TIDE = Word(WordKind.RECORD, value_of(WordKind.RECORD, "Tide"))
OFFICE = Word(WordKind.WORD, value_of(WordKind.WORD, "Harbour office"))
AUTHOR = Word(WordKind.TEXT, value_of(WordKind.TEXT, "Ada Finch"))
WORDS = (MODULE, TIDE, OFFICE, AUTHOR)
NEW = {
    MODULE: value_of(WordKind.MODULE, "Ferry desk"),
    TIDE: value_of(WordKind.RECORD, "Grey mouse / Grey mice"),
    OFFICE: value_of(WordKind.WORD, "Sail loft / Sail lofts"),
    AUTHOR: value_of(WordKind.TEXT, "Bo Reed"),
}


def filled(text: str, path: str = "a.py", joined: str | None = None) -> str:
    pattern = re.compile(joined) if joined else None
    return Template(text, path, pattern).filled(Filling(WORDS, NEW))


class Marks(unittest.TestCase):
    def test_a_mark_is_filled_in_as_it_is_spelled(self) -> None:
        for before, after in {
            "class ⟦TideBoard⟧Config": "class FerryDeskConfig",
            "⟦tide_board⟧.⟦tides⟧": "ferry_desk.grey_mice",
            "⟦TIDE⟧_⟦TIDES⟧": "GREY_MOUSE_GREY_MICE",
            "/⟦tide-board⟧/": "/ferry-desk/",
            "list_⟦tides⟧(⟦Tide⟧)": "list_grey_mice(GreyMouse)",
            "⟦tide⟧-row": "grey-mouse-row",
            "⟦harbour_offices⟧ ⟦HarbourOffice⟧": "sail_lofts SailLoft",
            "by ⟦Ada Finch⟧": "by Bo Reed",
        }.items():
            with self.subTest(before):
                self.assertEqual(filled(before), after)

    def test_a_single_word_becomes_a_sentence_or_code_by_where_it_stands(self) -> None:
        for path, before, after in (
            ("a.py", 'raise X("No ⟦tide⟧ today.")', 'raise X("No grey mouse today.")'),
            ("a.py", "for ⟦tide⟧ in ⟦tides⟧:", "for grey_mouse in grey_mice:"),
            ("a.py", 'ForeignKey("⟦Tide⟧")', 'ForeignKey("GreyMouse")'),
            ("a.py", 'assertIn("⟦Tides⟧", "<b>⟦Tide⟧</b>")', 'assertIn("Grey mice", "<b>Grey mouse</b>")'),
            ("a.py", 'verbose_name = _("⟦Tides⟧")', 'verbose_name = _("Grey mice")'),
            ("a.py", "# the ⟦tides⟧ of the port", "# the grey mice of the port"),
            ("a.py", "'SELECT id FROM ⟦tide⟧ WHERE'", "'SELECT id FROM grey_mouse WHERE'"),
            (
                "a.html",
                "{% for ⟦tide⟧ in ⟦tides⟧ %}<b>⟦Tide⟧</b>",
                "{% for grey_mouse in grey_mice %}<b>Grey mouse</b>",
            ),
            ("a.po", 'msgid "⟦Tides⟧"', 'msgid "Grey mice"'),
            ("a.md", "The ⟦tide⟧ turns", "The grey mouse turns"),
            ("a.xml", '<field name="name">⟦Tides⟧</field>', '<field name="name">Grey mice</field>'),
            ("a.xml", '<field name="model">⟦tide⟧</field>', '<field name="model">grey_mouse</field>'),
            ("a.php", " * Text Domain: ⟦tide⟧", " * Text Domain: grey_mouse"),
        ):
            with self.subTest(before):
                self.assertEqual(filled(before, path), after)

    def test_a_host_may_join_the_words_of_a_name(self) -> None:
        text = '"⟦tide_board⟧.view_⟦tide⟧", see_⟦tide⟧'
        self.assertEqual(filled(text, joined=r"view_$"), '"ferry_desk.view_greymouse", see_grey_mouse')

    def test_what_looks_like_a_mark_in_a_source_comes_back(self) -> None:
        text = "a = '⟦tide⟧' + tide  # ⟦"
        template = marked(text, [Span(text.rindex("tide"), text.rindex("tide") + 4)])
        self.assertEqual(filled(template), text.replace("+ tide", "+ grey_mouse"))

    def test_a_mark_without_a_word_is_told_with_its_line(self) -> None:
        with self.assertRaises(Unfilled) as caught:
            filled("a\nb ⟦buoy⟧\n")
        self.assertEqual((caught.exception.line, caught.exception.mark), (2, "buoy"))


class Words(unittest.TestCase):
    def test_a_plural_may_be_given_by_hand(self) -> None:
        self.assertEqual(value_of(WordKind.RECORD, "Foot / Feet").plural, "feet")
        self.assertEqual(value_of(WordKind.RECORD, "Wharf").plural, "wharves")
        self.assertEqual(value_of(WordKind.RECORD, "Grey mouse / Grey mice").plural_title, "Grey mice")

    def test_texts_that_would_break_a_line_are_refused(self) -> None:
        for text in ("", "Ada\nFinch", 'Ada "A" Finch', "⟦Ada⟧", "x" * 200):
            with self.subTest(text), self.assertRaises(WrongUse):
                value_of(WordKind.TEXT, text)

    def test_a_plural_that_is_its_singular_is_refused_where_the_pattern_tells_them_apart(self) -> None:
        pattern = Pattern("p", Facts("⟦tide_board⟧", "", WORDS), {})
        same = {**NEW, TIDE: value_of(WordKind.RECORD, "Sheep")}
        with self.assertRaises(WrongUse) as caught:
            pattern.filling(same, "_")
        self.assertIn("'Sheep'", caught.exception.sentence)
        pattern.filling({**NEW, TIDE: value_of(WordKind.RECORD, "Sheep / Flocks")}, "_")


class ItsFacts(unittest.TestCase):
    facts = Facts(
        "apps/⟦tide_board⟧", "django", WORDS, "A board", "/⟦tide-board⟧", (Entry("a.txt", "⟦tide_board⟧"),),
        (Variant("screens", ("*/api.py",)),),
    )  # fmt: skip

    def test_they_are_read_as_they_were_written(self) -> None:
        self.assertEqual(Facts.read(self.facts.content(), "pattern.toml"), self.facts)

    def test_a_digit_stays_with_its_word(self) -> None:
        family = NameFamily("Tide board", ("tide", "board2"))
        facts = self.facts._replace(words=(Word(WordKind.MODULE, Value(family)), TIDE))
        self.assertEqual(Facts.read(facts.content(), "pattern.toml"), facts)

    def test_what_is_wrong_is_told_with_its_line(self) -> None:
        text = self.facts.content().decode()
        for old, new, said in (
            ('summary = "A board"', 'sumary = "A board"', "pattern.toml:4: sumary: unknown key"),
            ('plural = "tides"', "plural = 3", "pattern.toml:14: record[0].plural"),
            ('plural = "tides"', 'plural = "潮"', "潮"),
            ("[module]", "[modul]", "modul"),
            ("pattern/1", "pattern/9", "swift-sprout/pattern/9"),
            ('name = "Tide"', 'name = "Tide"\nplural = "x"\n[[record]]\nname = "Tide"', "twice"),
            ("[module]", "[module", "TOML"),
        ):
            with self.subTest(new), self.assertRaises(WrongUse) as caught:
                Facts.read(text.replace(old, new).encode(), "pattern.toml")
            self.assertIn(said, caught.exception.sentence)

    def test_a_record_of_the_modules_word_follows_it(self) -> None:
        pilots = Word(WordKind.MODULE, value_of(WordKind.MODULE, "Pilots"))
        pilot = Word(WordKind.RECORD, value_of(WordKind.RECORD, "Pilot"))
        self.assertEqual(Facts("⟦pilots⟧", "", (pilots, pilot)).asked, [])
        self.assertEqual(self.facts.asked, [TIDE, OFFICE])

    def test_a_variant_leaves_files_out(self) -> None:
        screens = self.facts.variant("screens")
        self.assertTrue(left_out("apps/⟦tide_board⟧/api.py", screens))
        self.assertFalse(left_out("apps/⟦tide_board⟧/views.py", screens))
        with self.assertRaises(WrongUse):
            self.facts.variant("screen")

    def test_paths_move_with_the_folder_of_the_modules(self) -> None:
        self.assertEqual(self.facts.moved("apps/tide_board/a.py", "src"), "src/tide_board/a.py")
        self.assertEqual(self.facts.moved("templates/tide_board/a.html", "src"), "templates/tide_board/a.html")
        self.assertEqual(
            self.facts._replace(folder="⟦tide_board⟧").moved("tide_board/a.py", "src"), "src/tide_board/a.py"
        )


class Filled(unittest.TestCase):
    def filled(self, files: dict[str, bytes]) -> dict[str, bytes]:
        pattern = Pattern("board", ItsFacts.facts, files)
        made = pattern.filled(pattern.filling(NEW, "_"), Variant("", ()))
        return {path: one.content for path, one in made.items()}

    def test_names_and_contents_are_filled_in_and_pictures_stay(self) -> None:
        made = self.filled(
            {"⟦tide_board⟧/⟦tides⟧.py": b"\xff\xfe x \xe2\x9f\xa6Tide\xe2\x9f\xa7", "⟦tide_board⟧/a.png": b"\0p"}
        )
        self.assertEqual(made, {"ferry_desk/grey_mice.py": b"\xff\xfe x GreyMouse", "ferry_desk/a.png": b"\0p"})

    def test_all_that_cannot_be_filled_in_is_told_at_once(self) -> None:
        with self.assertRaises(Refused) as caught:
            self.filled({
                "a/⟦buoy⟧.py": b"", "b.py": "1\n⟦buoys⟧".encode(), "../c.py": b"", "/d.py": b"",
                "⟦tide⟧.txt": b"", "grey_mouse.txt": b"",
            })  # fmt: skip
        places = {problem.place.rpartition("files/")[2] for problem in caught.exception.problems}
        self.assertEqual(
            places,
            {"a/⟦buoy⟧.py.pattern:1", "b.py.pattern:2", "../c.py.pattern", "/d.py.pattern", "grey_mouse.txt.pattern"},
        )

    def test_any_change_makes_another_state(self) -> None:
        states = {
            Pattern("p", facts, files).state
            for facts in (ItsFacts.facts, ItsFacts.facts._replace(summary="Other"))
            for files in ({"a": b"1"}, {"a": b"2"}, {"b": b"1"})
        }
        self.assertEqual(len(states), 6)


class Lists(unittest.TestCase):
    def entered(self, path: str, text: str, line: str) -> str | None:
        return with_entry(path, text, line, Filling(WORDS, NEW))

    def test_a_line_goes_behind_the_last_that_is_alike(self) -> None:
        for path, before, line, after in (
            ("a.txt", "tide_board\nice_house\n# end\n", "⟦tide_board⟧", "tide_board\nice_house\nferry_desk\n# end\n"),
            ("a.txt", "tide_board\nice_house", "⟦tide_board⟧", "tide_board\nice_house\nferry_desk\n"),
            ("a.json", '[\n  "tide_board",\n  "ice_house"\n]\n', '  "⟦tide_board⟧",', '[\n  "tide_board",\n  "ice_house",\n  "ferry_desk"\n]\n'),
            ("a.py", "ON = [\n    'tide_board',\n]\n", "    '⟦tide_board⟧',", "ON = [\n    'tide_board',\n    'ferry_desk',\n]\n"),
            ("a.txt", "tide_board\r\nice_house\r\n", "⟦tide_board⟧", "tide_board\r\nice_house\r\nferry_desk\r\n"),
        ):  # fmt: skip
            with self.subTest(before):
                self.assertEqual(self.entered(path, before, line), after)

    def test_a_line_within_a_condition_shows_no_place(self) -> None:
        text = "SHOWN = 1\nif DEBUG:\n    TIDE_BOARD_SHOWN = 3\n"
        self.assertIsNone(self.entered("a.py", text, "⟦TIDE_BOARD⟧_SHOWN = 3"))
        self.assertIn("\n    FERRY_DESK_SHOWN = 3\n", self.entered("a.py", text, "    ⟦TIDE_BOARD⟧_SHOWN = 3") or "")

    def test_a_line_that_others_belong_to_does_not_stand_alone(self) -> None:
        for line in ("X = 3", "'a' => array( 'b' => 1 ),", '"a": {"level": "{"},', "a: b"):
            self.assertTrue(stands_alone(line), line)
        for line in ("X = {", "'a' => array(", "X = 1 + \\", 'X = """', "a: |", "]"):
            self.assertFalse(stands_alone(line), line)

    def test_a_line_that_is_there_or_has_no_place_is_not_made(self) -> None:
        self.assertEqual(self.entered("a.txt", "ferry_desk\n", "⟦tide_board⟧"), "ferry_desk\n")
        self.assertIsNone(self.entered("a.txt", "# nothing here: x\n", "load ⟦tide_board⟧"))
        self.assertIsNone(self.entered("a.json", '{"a": "tide_board"}\n', '{"a": "⟦tide_board⟧"}'))


class Origins(unittest.TestCase):
    origin = Origin.of("board", "screens", "abc", "apps", NEW, {"apps/ferry_desk/a.py": b"x"})

    def test_it_is_read_as_it_was_written(self) -> None:
        again = Origin.read(self.origin.content(), "sprout.pattern")
        self.assertEqual(again, self.origin)
        for word in WORDS:
            self.assertEqual(again.value(word), NEW[word])
        self.assertIsNone(again.value(Word(WordKind.RECORD, Value(NEW[MODULE].family, "x"))))

    def test_a_broken_one_is_refused(self) -> None:
        content = self.origin.content()
        for broken in (
            b"",
            content[:20],
            content.replace(b'"place"', b'"plac"'),
            content.replace(b"origin/1", b"origin/9"),
        ):
            with self.subTest(broken[:40]), self.assertRaises(Refused):
                Origin.read(broken, "sprout.pattern")


if __name__ == "__main__":
    unittest.main()
