"""Which names are taken for slips of others."""

from __future__ import annotations

import unittest

from swift_sprout.core.nearest import misspelt, slip_in


class Slips(unittest.TestCase):
    def test_long_names_that_are_nearly_the_same(self) -> None:
        self.assertEqual(misspelt("harbour_ofice", ["harbour_office", "tides"]), "harbour_office")
        self.assertIsNone(misspelt("berth", ["birth_office"]))

    def test_short_names_of_one_model_by_one_letter(self) -> None:
        for wrong in ("crews", "cres", "crrw"):
            with self.subTest(wrong):
                self.assertEqual(slip_in(wrong, ["name", "crew"]), "crew")

    def test_names_that_only_share_a_word_or_are_too_short_are_none(self) -> None:
        self.assertIsNone(slip_in("product_type", ["product", "product_template"]))
        self.assertIsNone(slip_in("day", ["bay"]))


if __name__ == "__main__":
    unittest.main()
