"""Columns of tables that show what the records do not have, told by the classes alone."""

import sys
import types
import unittest
from types import SimpleNamespace
from typing import Any

from ..support import in_host_module


def field(name: str, related: type | None = None) -> SimpleNamespace:
    return SimpleNamespace(name=name, related_model=related)


class Harbour:
    _meta = SimpleNamespace(get_fields=lambda: [field("town")])

    def full_name(self) -> str:
        return "the harbour"


class Berth:
    _meta = SimpleNamespace(get_fields=lambda: [field("title"), field("harbour", Harbour)])


class Table:
    """Stands for the package's base class: tables derive from it, and hold their columns by name."""

    _meta = SimpleNamespace(model=None)
    base_columns: dict[str, SimpleNamespace]


def column(accessor: str = "", empty: tuple[Any, ...] = (None, "")) -> SimpleNamespace:
    return SimpleNamespace(accessor=accessor, empty_values=empty)


class Columns(unittest.TestCase):
    def setUp(self) -> None:
        self.tables: Any = in_host_module("sprout_tables")
        sys.modules["django_tables2"] = types.ModuleType("django_tables2")
        self.addCleanup(sys.modules.pop, "django_tables2", None)

    def found(self, **columns: SimpleNamespace) -> list[tuple[str, str, list[str]]]:
        self.base = type("Base", (Table,), {})  # which no table of another test derives from
        sys.modules["django_tables2"].Table = self.base  # type: ignore[attr-defined]
        meta = SimpleNamespace(model=Berth)
        self.kept = type("BerthTable", (self.base,), {"_meta": meta, "base_columns": columns, "__module__": __name__})
        told = self.tables.columns_of_nothing([__name__.rpartition(".")[0]])
        return [(one["name"], one["record"], one["near"]) for one in told]

    def test_one_letter_off_a_field_is_told(self) -> None:
        self.assertEqual(self.found(titel=column()), [("titel", "Berth", ["title"])])
        self.assertEqual(self.found(town=column("harbour__town")), [])
        self.assertEqual(self.found(town=column("harbour__twn")), [("twn", "Harbour", ["town"])])
        self.assertEqual(self.found(town=column("harbor.town")), [("harbor", "Berth", ["harbour"])])

    def test_what_records_have_is_well(self) -> None:
        self.assertEqual(
            self.found(title=column(), name=column("harbour__full_name"), deep=column("title__anything")), []
        )

    def test_what_a_query_may_add_is_left_alone(self) -> None:
        self.assertEqual(self.found(vessels_in=column()), [])

    def test_a_column_that_draws_itself_needs_no_value(self) -> None:
        self.assertEqual(self.found(titel=column(empty=())), [])

    def test_nothing_is_told_where_the_package_is_not_loaded(self) -> None:
        del sys.modules["django_tables2"]
        self.assertEqual(self.tables.columns_of_nothing(["tests"]), [])
        sys.modules["django_tables2"] = types.ModuleType("django_tables2")
