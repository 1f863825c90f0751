"""Which errors of trial rows show broken code on trytond, and which only that such a row may not be."""

from __future__ import annotations

import unittest

from swift_sprout.hosts.kits.trytond.examining.breaking import in_words, unset_field, what_broke

from ..support import Case


def chain(*errors: tuple[str, str]) -> dict[str, object]:
    return {"chain": [{"kind": kind, "text": text, "frames": [], "last": None} for kind, text in errors]}


class WhatBroke(Case):
    def test_a_field_that_no_row_has_is_broken_code(self) -> None:
        error = chain(("AttributeError", '"pilotage.boat,2" has no attribute "crews"'), ("KeyError", "'crews'"))
        broken = what_broke(error, {"crew"})
        assert broken is not None
        self.assertEqual(in_words(broken), 'AttributeError: "pilotage.boat,2" has no attribute "crews"')

    def test_the_cause_comes_before_what_it_was_turned_into(self) -> None:
        error = chain(("NameError", "name 'crews' is not defined"), ("TypeError", "f() takes 1 positional argument"))
        broken = what_broke(error)
        assert broken is not None
        self.assertEqual(broken["kind"], "TypeError")

    def test_what_a_trial_row_lacks_is_not(self) -> None:
        for kind, text in (
            ("AttributeError", "'NoneType' object has no attribute 'currency'"),
            ("AttributeError", "'company.company' Model has no attribute 'currency': None"),
            ("KeyError", "'company'"),
            ("UserError", "Nobody is free."),
            ("RequiredValidationError", "A value is required"),
            ("ConnectionRefusedError", "nobody is asked while something is tried"),
        ):
            with self.subTest(text):
                self.assertIsNone(what_broke(chain((kind, text))))

    def test_a_field_that_was_not_given_is_the_rows_affair(self) -> None:
        error = chain(("AttributeError", "'pilotage.boat' object has no attribute 'crew'"))
        self.assertIsNone(what_broke(error, {"crew"}))
        self.assertEqual(unset_field(error, {"crew"}), "crew")
        self.assertEqual(unset_field(error, {"name"}), "")


if __name__ == "__main__":
    unittest.main()
