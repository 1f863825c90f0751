"""What a shop sells and how, as a brief says it."""

import unittest

from swift_sprout.core.brief import Brief, brief_from_toml
from swift_sprout.core.errors import WrongUse
from swift_sprout.core.fields import PIECES, parse_field, spell_field
from swift_sprout.core.nearest import misspelt
from swift_sprout.core.parts.kinds import kind_named

HEAD = '[module]\nname = "Stall"\n[[record]]\nname = "Season"\nfields = ["name: text(40)"]\n'


def read(text: str) -> Brief:
    return brief_from_toml(HEAD + text, "sprout.toml")


class Said(unittest.TestCase):
    def wrong(self, text: str) -> str:
        with self.assertRaises(WrongUse) as caught:
            read(text)
        return "; ".join(f"{one.place} {one.what} {one.remedy}" for one in caught.exception.problems)

    def test_what_contradicts_itself_is_told_with_its_line(self):
        for text, said in {
            '[[product_kind]]\nname = "Rope"\nattributes = ["price: integer"]': "Every product has 'price'",
            '[[product_kind]]\nname = "Rope"\nattributes = ["made -> Season"]': "cannot be of type one",
            '[[product_kind]]\nname = "Rope"\nattributes = ["a: text", "a: text"]': "twice",
            '[[product_kind]]\nname = "Season"': "is a record as well",
            '[[product_kind]]\nname = "Rope"\nattributes = ["m: integer, default 3"]': "can be neither unique nor",
            '[[shipping_method]]\nname = "Ferry"\nprice = "2.505"': "cannot be '2.505'",
            '[[shipping_method]]\nname = "Ferry"\nprice = "-1"': "cannot be '-1'",
            '[[price_rule]]\nname = "Winter"': "says not by how much",
            '[[price_rule]]\nname = "Winter"\npercent = 10\namount = "1"': "not both",
            '[[price_rule]]\nname = "Winter"\npercent = 101': "no percentage",
            '[[price_rule]]\nname = "Winter"\namount = "0"': "takes nothing off",
            '[[price_rule]]\nname = "Winter"\npercent = 5\nat_least = 0': "at least 0",
            '[[price_rule]]\nname = "Winter"\npercent = 5\nfirst_day = "soon"': "is no day",
            '[[price_rule]]\nname = "W"\npercent = 5\nfirst_day = "2027-01-02"\nlast_day = "2027-01-01"': "ends before",
            '[[product_kind]]\nname = "Rope"\n[[price_rule]]\nname = "W"\npercent = 5\nkind = "Roap"': "Rope",
            '[[staff_screen]]\npath = "/seasons"\nshows = "Seasons"': "Season",
            '[[staff_screen]]\npath = "/seasons"\nshows = "Season"\naccess = "anyone"': "cannot be open to anyone",
            '[[staff_screen]]\npath = "/"\nshows = "Season"': "cannot have the path",
            '[[staff_screen]]\npath = "/s/{n: integer}"\nshows = "Season"': "cannot have the path",
            '[[staff_screen]]\npath = "/s"\nshows = "Season"\n[[page]]\npath = "/s"': "is there twice",
            '[[extension]]\nof = "Partner"\nfields = ["a: text, optional"]': "no record of another module",
            '[[extension]]\nof = "partner.Partner"\nfields = ["a: text"]': "no value for the rows",
            '[[extension]]\nof = "partner.Partner"\nfields = ["a ->> Season, optional"]': "relations to many",
            '[[extension]]\nof = "stall.Season"\nfields = ["a: text, optional"]': "this very module",
        }.items():
            with self.subTest(text):
                self.assertIn(said, self.wrong(text))
                self.assertRegex(self.wrong(text), r"sprout\.toml:\d+")

    def test_sample_products_are_held_against_their_kind(self):
        kind = (
            '[[product_kind]]\nname = "Rope"\nattributes = ["metres: integer", "lay: choice(left, right), optional"]\n'
        )
        for row, said in {
            'title = "A", price = "1", stock = 1': "no 'metres'",
            'title = "A", price = "1", metres = 3': "no 'stock'",
            'title = "A", price = "dear", stock = 1, metres = 3': "the price cannot be",
            'title = "A", price = "1", stock = "few", metres = 3': "the stock cannot be",
            'title = "A", price = "1", stock = 1, metres = "long"': "metres of type integer cannot be",
            'title = "A", price = "1", stock = 1, metres = 3, colour = "red"': "unknown attribute 'colour'",
            'title = "A", price = "1", stock = 1, metres = 3, lay = "up"': "lay of type choice cannot be",
        }.items():
            with self.subTest(row):
                self.assertIn(said, self.wrong(f'{kind}[[sample]]\nrecord = "Rope"\nrows = [{{ {row} }}]'))
        twice = '{ title = "A", price = "1", stock = 1, metres = 3 }'
        self.assertIn("one title", self.wrong(f'{kind}[[sample]]\nrecord = "Rope"\nrows = [{twice}, {twice}]'))

    def test_each_part_comes_back_as_it_was_said(self):
        brief = read(
            '[[product_kind]]\nname = "Rope"\nattributes = ["metres: integer"]\nstocked = false\n'
            '[[shipping_method]]\nname = "Ferry"\nprice = "2.50"\nfree_from = "40"\n'
            '[[price_rule]]\nname = "Winter"\nkind = "Rope"\nat_least = 2\npercent = 15\nlast_day = "2027-02-28"\n'
            '[[staff_screen]]\npath = "/seasons"\nshows = "Season"\nunder = "Stall"\n'
            '[[extension]]\nof = "partner.Partner"\nfields = ["quay: text(20), optional"]\n'
        )
        data = brief.as_data()
        self.assertEqual(data["product_kind"], [{"name": "Rope", "attributes": ["metres: integer"], "stocked": False}])
        self.assertEqual(data["shipping_method"], [{"name": "Ferry", "price": "2.50", "free_from": "40"}])
        self.assertEqual(
            data["price_rule"],
            [{"name": "Winter", "kind": "Rope", "at_least": 2, "percent": 15, "last_day": "2027-02-28"}],
        )
        screen = {"path": "/seasons", "title": "Seasons", "shows": "Season", "access": "may read Season"}
        self.assertEqual(data["staff_screen"], [screen | {"under": "Stall"}])
        self.assertEqual(data["extension"], [{"of": "partner.Partner", "fields": ["quay: text(20), optional"]}])

    def test_each_kind_reads_its_own_example(self):
        for name in ("product_kind", "shipping_method", "price_rule", "staff_screen", "extension"):
            with self.subTest(name):
                kind = kind_named(name)
                self.assertTrue(kind.make(kind.from_line(kind.example)).key)


class Fields(unittest.TestCase):
    def test_structured_content_names_its_pieces(self):
        field = parse_field("story: content(heading, image), optional")
        self.assertEqual((field.type, field.pieces), ("content", ("heading", "image")))
        self.assertEqual(spell_field(field), "story: content(heading, image), optional")
        self.assertEqual(parse_field("story: content").pieces, PIECES)
        with self.assertRaises(WrongUse) as caught:
            parse_field("story: content(heading, picture)")
        self.assertIn("unknown piece 'picture'", caught.exception.sentence)
        for kind in ("image", "document", "content"):
            with self.subTest(kind), self.assertRaises(WrongUse):
                parse_field(f"a: {kind}, default x")

    def test_a_slip_of_the_pen_is_more_than_likeness(self):
        self.assertEqual(
            misspelt("register_admin_menu_items", ["register_admin_menu_item"]), "register_admin_menu_item"
        )
        self.assertIsNone(misspelt("OfferGroupDeleteView", ["OfferDeleteView"]))
