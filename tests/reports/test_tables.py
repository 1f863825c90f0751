"""Tables and graphs as people and other programs see them, on data made by hand."""

from __future__ import annotations

import io
import re
import unittest
from xml.etree import ElementTree

from swift_sprout.core.graphs import ModuleGraph, Need, Node
from swift_sprout.core.tables import Table
from swift_sprout.reports import graphs
from swift_sprout.reports.terminal import Terminal
from swift_sprout.reports.widths import width

SVG = "{http://www.w3.org/2000/svg}"
ODD = 'Quay <b>&"潮\\'


class Grids(unittest.TestCase):
    def lines(
        self, columns: int, head: tuple[str, ...], rows: list[tuple[str, ...]], spare: tuple[str, ...] = ()
    ) -> list[str]:
        buffer = io.StringIO()
        out = Terminal(buffer, colour=False, signs=True)
        out.width = columns
        out.grid(head, rows, spare)
        return buffer.getvalue().splitlines()

    def test_a_table_that_fits_stands_as_it_is(self):
        lines = self.lines(40, ("file", "why"), [("a.py", "first"), ("longer.py", "second")])
        self.assertEqual(lines, ["file       why", "a.py       first", "longer.py  second"])

    def test_wide_columns_are_broken_and_empty_ones_left_out(self):
        long = "a sentence that goes on and on until the line is full, and then some more"
        lines = self.lines(40, ("file", "none", "why"), [("a.py", "", long), ("b.py", "", "short")])
        self.assertLessEqual(max(map(width, lines)), 40)
        self.assertNotIn("none", lines[0])
        self.assertEqual(" ".join(" ".join(lines[1:-1]).replace("a.py", "").split()), long)
        self.assertTrue(lines[-1].startswith("b.py"))

    def test_paths_are_broken_behind_what_parts_them_and_numbers_never(self):
        path = "management/commands/list_berths.py:12345"
        lines = self.lines(44, ("place", "why"), [(path, "it takes 1234567 berths and 7654321 ropes")])
        self.assertLessEqual(max(map(width, lines)), 44)
        self.assertTrue(lines[1].startswith("management/"))
        for whole in ("list_berths.py:12345", "1234567", "7654321"):
            self.assertTrue(any(whole in line for line in lines), whole)

    def test_rows_that_do_not_fit_side_by_side_become_blocks(self):
        head = ("address", "controller", "template")
        lines = self.lines(30, head, [("/berths/", "BerthsListOfTheQuay", "berths/berths_list.html")])
        self.assertEqual(
            lines,
            [
                "address:",
                "/berths/",
                "  controller  BerthsListOfTheQuay",
                "  template    berths/",
                f"{'':14}berths_list.html",
            ],
        )

    def test_a_word_that_is_longer_than_the_line_is_not_torn(self):
        name = "harbour_office_of_the_quay_and_of_all_its_berths"
        self.assertIn(name, self.lines(30, ("module", "title"), [(name, "Office")]))

    def test_no_word_is_broken(self):
        name, title = "harbour_office_of_the_quay", "Office of the harbour"
        lines = self.lines(44, ("module", "title"), [(name, title)])
        self.assertTrue(lines[1].startswith(f"{name}  Office"))
        self.assertIn(name, self.lines(44, ("module", "title"), [(name, "o" * 20)], ("title",))[1])

    def test_spare_columns_go_one_by_one_and_only_where_words_would_be_broken(self):
        head, row = ("module", "place", "version", "title"), ("harbour_office", "harbour_office", "10.20.30", "Office")
        for columns, kept in ((60, head), (38, ("module", "version", "title")), (24, ("module", "title"))):
            with self.subTest(columns):
                lines = self.lines(columns, head, [row], ("place", "version"))
                self.assertEqual(tuple(lines[0].split()), kept)
                self.assertEqual(lines[1].split(), [row[head.index(name)] for name in kept])

    def test_rows_as_data(self):
        self.assertEqual(Table("t", ("a", "b"), [("1", "2")], []).as_data(), [{"a": "1", "b": "2"}])


class Pictures(unittest.TestCase):
    graph = ModuleGraph(
        [Node("a", ODD, True, 0), Node("b", "", False, -1), Node("c", "C", True, 1)],
        [
            Need("a", "b", True, False),
            Need("b", "a", False, True),
            Need("c", "gone", True, True),
            Need("c", "auth", True, True),
        ],
        ["auth"],
    )

    def test_any_title_makes_a_well_formed_picture(self):
        root = ElementTree.fromstring(graphs.svg(self.graph))
        texts = [one.text for one in root.iter(f"{SVG}text")]
        self.assertIn(ODD, texts)
        self.assertEqual((texts.count("missing"), texts.count("of the host")), (1, 1))
        red = [one for one in root.iter(f"{SVG}path") if one.get("stroke") == "#b3261e"]
        self.assertEqual(len(red), 2)
        wide, high = float(root.get("width", "0")), float(root.get("height", "0"))
        for box in root.iter(f"{SVG}rect"):
            x, y = float(box.get("x", "0")), float(box.get("y", "0"))
            self.assertTrue(x >= 0 and x + float(box.get("width", "0")) <= wide)
            self.assertTrue(y >= 0 and y + float(box.get("height", "0")) <= high)

    def test_dot_quotes_what_it_must(self):
        text = graphs.dot(self.graph)
        self.assertIn('label="Quay <b>&\\"潮\\\\"', text)
        self.assertEqual(len(re.findall(r"->", text)), 4)
        self.assertIn('"b" -> "a" [style=dashed];', text)

    def test_no_modules_at_all(self):
        empty = ModuleGraph([], [])
        ElementTree.fromstring(graphs.svg(empty))
        self.assertEqual(graphs.document(empty)["order"], [])
