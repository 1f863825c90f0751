"""What domains and conditions name, as clients get them: told by their form alone, without a host."""

import unittest
from types import SimpleNamespace
from typing import Any

from swift_sprout.hosts.kits.trytond.probe import named as probe

named: Any = probe  # it runs in the host's own interpreter, and has no types


def asks(name: str) -> dict[str, str]:
    return {"__class__": "Eval", "v": name, "d": ""}


def equal(name: str, value: object) -> dict[str, Any]:
    return {"__class__": "Equal", "s1": asks(name), "s2": value}


class Clauses(unittest.TestCase):
    def told(self, domain: object) -> list[str]:
        return sorted(name for name, _, _ in named.clauses_in(domain))

    def test_clauses_are_found_in_lists_of_any_depth(self) -> None:
        domain = ["OR", ["state", "=", "ashore"], ["AND", ["day", ">=", None], [["cradle.busy", "in", [1, 2]]]]]
        self.assertEqual(self.told(domain), ["cradle.busy", "day", "state"])

    def test_both_ends_of_a_condition_count_and_what_it_asks_does_not(self) -> None:
        domain = [{"__class__": "If", "c": equal("kind", "rail"), "t": ["axles", "=", None], "e": ["longest", ">", 0]}]
        self.assertEqual(self.told(domain), ["axles", "longest"])

    def test_a_clause_about_the_rows_of_a_relation_is_one_of_the_relation(self) -> None:
        self.assertEqual(self.told([["hauls", "where", [["boat", "!=", ""], ["day", "<", None]]]]), ["hauls"])

    def test_lists_of_values_are_no_clauses(self) -> None:
        self.assertEqual(self.told([["state", "in", ["draft", "in", "ashore"]], ["a", "b", "c"], []]), ["state"])
        self.assertEqual(self.told(None), [])


class Comparisons(unittest.TestCase):
    def told(self, condition: object) -> list[tuple[str, str]]:
        return sorted(named.comparisons_in(condition))

    def test_either_side_may_be_the_field(self) -> None:
        turned = {"__class__": "Equal", "s1": "draft", "s2": asks("state")}
        both = {"__class__": "And", "s": [equal("kind", "rail"), {"__class__": "Not", "v": turned}]}
        self.assertEqual(self.told(both), [("kind", "rail"), ("state", "draft")])

    def test_each_of_several_values_counts(self) -> None:
        condition = {"__class__": "In", "k": asks("state"), "v": ["draft", "ashore", 3]}
        self.assertEqual(self.told(condition), [("state", "ashore"), ("state", "draft")])

    def test_what_compares_no_field_with_a_text_is_left(self) -> None:
        keys = {"__class__": "In", "k": "draft", "v": asks("states")}
        self.assertEqual(self.told([equal("days", 3), equal("day", None), keys]), [])


class Fields(unittest.TestCase):
    def setUp(self) -> None:
        lines = SimpleNamespace(_fields={"work": SimpleNamespace(_type="char")})
        self.haul = SimpleNamespace(
            _fields={
                "lines": SimpleNamespace(_type="one2many", get_target=lambda: lines),
                "state": SimpleNamespace(_type="selection", selection=[("draft", "Draft"), (None, "")]),
                "origin": SimpleNamespace(_type="selection", selection="get_origins"),
            }
        )
        self.lines = lines

    def test_a_dotted_name_is_followed_over_relations_alone(self) -> None:
        self.assertEqual(named.field_at(self.haul, "state"), ("state", self.haul))
        self.assertEqual(named.field_at(self.haul, "lines.work"), ("work", self.lines))
        self.assertIsNone(named.field_at(self.haul, "state.work")[1])
        self.assertIsNone(named.field_at(self.haul, "nowhere.work")[1])

    def test_only_a_selection_that_says_itself_tells_what_it_offers(self) -> None:
        self.assertEqual(named.offered_of(self.haul, "state"), ["draft"])
        self.assertIsNone(named.offered_of(self.haul, "origin"))
        self.assertIsNone(named.offered_of(self.haul, "nowhere"))
