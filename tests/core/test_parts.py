"""The parts of a brief: read, spelled back, and held against each other."""

from __future__ import annotations

import unittest
from typing import ClassVar

from swift_sprout.cli.commands import add
from swift_sprout.core.brief import brief_from_toml
from swift_sprout.core.brieftext import brief_text
from swift_sprout.core.errors import Refused, WrongUse
from swift_sprout.core.graphs import ModuleGraph, Need, Node
from swift_sprout.core.made import Made
from swift_sprout.core.parts.kinds import KINDS, kind_named
from swift_sprout.core.parts.pages import make_page
from swift_sprout.core.rights import Holder, closed, matrix, unseen
from tests.support import BRIEFS, brief_of

WHOLE = (BRIEFS / "berth_register.toml").read_text("utf-8")
START = '[module]\nname = "Berth register"\n[[record]]\nname = "Berth"\nfields = ["number: text(12)"]\n'


def problems(text: str) -> list[str]:
    """Return what is wrong with a brief, each with its remedy."""
    try:
        brief_from_toml(text, "sprout.toml")
    except WrongUse as error:
        return [f"{one.place} {one.what} {one.remedy}" for one in error.problems]
    return []


class Lines(unittest.TestCase):
    def test_every_kind_is_said_on_a_line_and_spelled_back(self):
        for kind in map(kind_named, KINDS):
            with self.subTest(kind=kind.name):
                part = kind.make(kind.from_line(kind.example))
                self.assertEqual(kind.make(kind.data(part)), part)
                self.assertTrue(part.key)

    def test_the_help_of_add_names_every_kind_with_its_line(self):
        for kind in map(kind_named, KINDS):
            self.assertIn(f"{kind.name:<15} {kind.example}", add.EXAMPLE)

    def test_a_quoted_value_may_hold_commas_and_doubled_quotes(self):
        entry = kind_named("block").from_line('"Berths, free": say ""hello""')
        self.assertEqual(entry["name"], '"Berths, free"'.strip('"'))
        page = kind_named("page").from_line('/berths: "Berths, ""free"" ones", shows Berth')
        self.assertEqual((page["title"], page["shows"]), ('Berths, "free" ones', "Berth"))

    def test_unknown_options_name_the_nearest(self):
        with self.assertRaises(WrongUse) as caught:
            kind_named("page").from_line("/berths, show Berth")
        self.assertIn("shows", caught.exception.remedy)
        for kind, line in (
            ("block", "Free berths, limit many"),
            ("placement", "Free berths, published perhaps"),
            ("sample", 'Berth, rows "number"'),
            ("translation", "de, texts Berth"),
            ("group", "Clerks, may Berth"),
            ("menu", "Berths, page /a, page /b"),
        ):
            with self.subTest(line=line), self.assertRaises(WrongUse):
                kind_named(kind).from_line(line)

    def test_an_unknown_kind_names_the_nearest(self):
        with self.assertRaises(WrongUse) as caught:
            kind_named("recrod")
        self.assertIn("record", caught.exception.remedy)


class Briefs(unittest.TestCase):
    def test_the_brief_with_types_of_pages_reads_back_from_its_own_spelling(self):
        brief = brief_from_toml(brief_of("wagtail", "tide_pages").read_text("utf-8"), "x")
        self.assertEqual(len(brief.page_types), 3)
        self.assertEqual(brief_from_toml(brief_text(brief), "x"), brief)

    def test_the_whole_brief_reads_back_from_its_own_spelling(self):
        brief = brief_from_toml(WHOLE, "x")
        again = brief_from_toml(brief_text(brief), "x")
        self.assertEqual(again, brief)
        elsewhere = ["page_type", "staff_screen", "product_kind", "shipping_method", "price_rule", "extension"]
        self.assertEqual([kind for kind in KINDS if not brief.parts(kind)], elsewhere)  # said in other briefs

    def test_what_refers_to_nothing_is_told_with_its_line_and_the_nearest(self):
        for piece, wanted in (
            ('[[permission]]\nname = "Close"\non = "Bert"', "Berth"),
            ('[[group]]\nname = "Clerks"\nmay = { Bert = "read" }', "Berth"),
            ('[[group]]\nname = "Clerks"\nmay = { Berth = "raed" }', "read"),
            ('[[group]]\nname = "Clerks"\nincludes = ["Clercs"]', "Clerks"),
            ('[[group]]\nname = "Clerks"\nalso = ["Close"]', "Close"),
            ('[[page]]\npath = "/a"\nshows = "Bert"', "Berth"),
            ('[[page]]\npath = "/a"\naccess = "may read Bert"', "Berth"),
            ('[[page]]\npath = "/a"\naccess = "may close"', "'close'"),
            ('[[endpoint]]\npath = "/a"\nshows = "Bert"', "Berth"),
            ('[[menu]]\ntitle = "A"\npage = "/b"', "/b"),
            ('[[menu]]\ntitle = "A"\npage = "/b"\nparent = "C"', "'C'"),
            ('[[menu]]\ntitle = "A"', "leads nowhere"),
            ('[[menu]]\ntitle = "A"\nside = "sight"', "site"),
            ('[[block]]\nname = "A"\nshows = "Bert"', "Berth"),
            ('[[placement]]\nblock = "A"', "'A'"),
            ('[[command]]\nname = "A"\nlists = "Bert"', "Berth"),
            ('[[command]]\nname = "A"\nnamed = ["x: json"]', "json"),
            ('[[service]]\nname = "A"\nuses = ["Bert"]', "Berth"),
            ('[[service]]\nname = "A"\nuses = ["A"]', "needs itself"),
            ('[[listener]]\nname = "A"\non = "record savd"', "record saved"),
            ('[[listener]]\nname = "A"\non = "record saved"', "Say which"),
            ('[[setting]]\nfield = "x: integer"', "default"),
            ('[[setting]]\nfield = "x -> Berth"', "plain type"),
            ('[[setting]]\nfield = "x: integer, default many"', "default"),
            ('[[sample]]\nrecord = "Bert"\nrows = []', "Berth"),
            ('[[sample]]\nrecord = "Berth"\nrows = [{ numer = "A" }]', "number"),
            ('[[sample]]\nrecord = "Berth"\nrows = [{ number = "A" }, { number = "A" }]', "two rows"),
            ('[[sample]]\nrecord = "Berth"\nrows = [{ number = "much too long a number" }]', "cannot be"),
            ('[[translation]]\nlanguage = "german"', "de"),
            ('[[asset]]\nfile = "../x.css"', ".css"),
        ):
            with self.subTest(piece=piece):
                found = problems(START + piece)
                self.assertTrue(found)
                self.assertRegex(found[0], r"sprout.toml:\d+ ")
                self.assertIn(wanted, " ".join(found))

    def test_two_parts_of_one_name_and_circles(self):
        for piece, wanted in (
            ('[[record]]\nname = "berth"\nfields = ["a: text"]', "twice"),
            ('[[page]]\npath = "/a"\n[[page]]\npath = "/a"', "twice"),
            ('[[page]]\npath = "/a"\n[[endpoint]]\npath = "/a"\nshows = "Berth"', "twice"),
            ('[[group]]\nname = "A"\nincludes = ["B"]\n[[group]]\nname = "B"\nincludes = ["A"]', "includes itself"),
            ('[[menu]]\ntitle = "A"\nparent = "B"\n[[menu]]\ntitle = "B"\nparent = "A"', "hangs under itself"),
            (
                '[[record]]\nname = "A"\nfields = ["b -> B"]\n[[record]]\nname = "B"\nfields = ["a -> A"]',
                "none can ever be kept",
            ),
            (
                '[[record]]\nname = "A"\nfields = ["one -> Berth (same)", "two -> Berth (same)"]',
                "reached back",
            ),
            ('[[service]]\nname = "A"\nuses = ["B"]\n[[service]]\nname = "B"\nuses = ["A"]', "needs itself"),
        ):
            with self.subTest(piece=piece):
                self.assertIn(wanted, " ".join(problems(START + piece)))

    def test_paths_with_parameters(self):
        page = make_page("/berths/{number: integer}/log/{day}")
        self.assertEqual([tuple(one) for one in page.parameters], [("number", "integer"), ("day", "text")])
        self.assertEqual(page.words, ("berths", "number", "log", "day"))
        for path in ("/{a: real}", "/{a}/{a}", "/A", "/a b", "/{}"):
            with self.subTest(path=path), self.assertRaises(WrongUse):
                make_page(path)

    def test_a_form_that_says_no_access_asks_for_the_right(self):
        text = START + '[[page]]\npath = "/a"\nshows = "Berth"\nview = "form"\naccess = "anyone"'
        self.assertEqual(problems(text), [])
        page = brief_from_toml(START + '[[page]]\npath = "/a"\nshows = "Berth"\nview = "form"', "x").pages[0]
        self.assertEqual(page.access, "may create Berth")

    def test_irregular_plurals_and_titles_in_any_script(self):
        text = START.replace('"Berth"\n', '"Berth"\nplural = "Liegeplätze"\n')
        record = brief_from_toml(text, "x").records[0]
        self.assertEqual((record.plural.title, record.plural.snake), ("Liegeplätze", "liegeplatze"))
        record = brief_from_toml(text.replace("Liegeplätze", "泊位"), "x").records[0]
        self.assertEqual((record.plural.title, record.plural.snake), ("泊位", "berths"))


class Rights(unittest.TestCase):
    own: ClassVar = {"clerks": [("Berth", "read")], "master": [("Berth", "delete")], "mayor": []}

    def test_rights_are_closed_over_inclusion_and_circles_end(self):
        includes = {"master": ["clerks"], "mayor": ["master"], "clerks": ["mayor"]}
        self.assertEqual(closed(self.own, includes, "mayor"), {("Berth", "read"), ("Berth", "delete")})
        self.assertEqual(closed(self.own, {}, "master"), {("Berth", "delete")})

    def test_the_matrix_shows_what_a_superuser_may_and_what_nobody_sees(self):
        holders = [
            Holder("group", "clerks", closed(self.own, {}, "clerks")),
            Holder("user", "root", frozenset(), all_rights=True),
        ]
        rows = matrix(["Berth", "Booking"], ["close"], holders)
        self.assertEqual(rows[0], ("group", "clerks", "Berth", "yes", "–", "–", "–", ""))
        self.assertEqual(rows[2], ("user", "root", "Berth", "yes", "yes", "yes", "yes", "close"))
        self.assertEqual(unseen(["Berth", "Booking"], holders), ["Booking"])


class Graphs(unittest.TestCase):
    def graph(self, *needs: tuple[str, str], said: bool = True, used: bool = False) -> ModuleGraph:
        nodes = [Node(name, name.title(), True, number) for number, name in enumerate("abcd")]
        return ModuleGraph(nodes, [Need(one, other, said, used) for one, other in needs], ["auth"])

    def test_order_puts_what_is_needed_first(self):
        graph = self.graph(("a", "c"), ("c", "d"))
        order = graph.order()
        self.assertLess(order.index("d"), order.index("c"))
        self.assertLess(order.index("c"), order.index("a"))
        self.assertEqual([(need.module, need.needs) for need in graph.out_of_order()], [("a", "c"), ("c", "d")])

    def test_circles_are_told_once(self):
        graph = self.graph(("a", "b"), ("b", "c"), ("c", "a"))
        self.assertEqual(graph.circles(), [["a", "b", "c", "a"]])
        self.assertEqual(sorted(graph.order()), ["a", "b", "c", "d"])

    def test_missing_and_superfluous(self):
        graph = self.graph(("a", "b"), ("b", "c"), ("a", "c"), ("a", "x"), ("a", "auth"))
        self.assertEqual([need.needs for need in graph.missing()], ["x"])
        self.assertEqual([(need.needs, over) for need, over in graph.superfluous()], [("c", "b")])
        self.assertEqual(self.graph(("a", "b"), ("b", "c"), ("a", "c"), used=True).superfluous(), [])


class Kept(unittest.TestCase):
    def test_what_was_made_reads_back(self):
        made = Made.of("django", {"a.py": b"x = 1\n", "locale/de/django.mo": bytes(range(256)), "empty": b""})
        self.assertEqual(Made.read(made.content(), "sprout.made"), made)

    def test_a_broken_file_is_refused_with_its_line(self):
        good = Made.of("django", {"a.py": b"x"}).content()
        for content, line in (
            (b"", 1),
            (b"something else\n", 1),
            (good + b"no tab\n", 3),
            (good + b"../up.py\tAAAA\n", 3),
            (good + b"/up.py\tAAAA\n", 3),
            (good + b"b.py\tnot packed\n", 3),
        ):
            with self.subTest(content=content), self.assertRaises(Refused) as caught:
                Made.read(content, "m/sprout.made")
            self.assertIn(f"m/sprout.made:{line}:", caught.exception.sentence)
