"""Edits of Python sources: the value is right, and all the rest of the text stays."""

import ast
import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from swift_sprout.edits.python import import_name, insert_item, quoted_like, remove_item
from swift_sprout.edits.source import SourceText


def sequence(text: str) -> ast.List | ast.Tuple:
    statement = ast.parse(text).body[0]
    assert isinstance(statement, ast.Assign) and isinstance(statement.value, ast.List | ast.Tuple)
    return statement.value


def value(text: str) -> Any:
    return ast.literal_eval(sequence(text))


gap = st.sampled_from(["", " ", "\n    ", "  # remark, with (signs]\n    "])
items = st.lists(st.sampled_from(['"a"', "'b'", '("c" "d")', '("e")', '"ü"', "('f', 'g')"]), max_size=5)


@st.composite
def lists(draw):
    """A list or tuple spelled in any layout."""
    opening, closing = draw(st.sampled_from(["[]", "()"]))
    elements = draw(items)
    text = f"Ä = {opening}" + draw(st.sampled_from(["", "\n    ", "  # first\n    "]))
    for index, element in enumerate(elements):
        last = index == len(elements) - 1
        single = last and len(elements) == 1 and opening == "("
        comma = "," if not last or single or draw(st.booleans()) else ""
        text += element + comma + (draw(gap) if not last else draw(st.sampled_from(["", "\n", "  # last\n"])))
    return text + ("\n" if not elements and "#" in text else "") + closing + "  # behind\nB = 2\n"


class Lists(unittest.TestCase):
    @given(lists(), st.integers(0, 6))
    def test_an_item_put_in_stands_where_it_shall_and_remarks_stay(self, text, before):
        node = sequence(text)
        place = before if before < len(node.elts) else None
        after = insert_item(text, node, '"tide"', before=place)
        wanted = list(value(text))
        wanted.insert(len(wanted) if place is None else place, "tide")
        self.assertEqual(list(value(after)), wanted)
        self.assertEqual(after.count("#"), text.count("#"))
        self.assertTrue(after.endswith("  # behind\nB = 2\n"))

    @given(lists(), st.integers(0, 4))
    def test_an_item_taken_out_leaves_the_others(self, text, index):
        node = sequence(text)
        if index >= len(node.elts):
            return
        after = remove_item(text, node, index)
        wanted = list(value(text))
        del wanted[index]
        self.assertEqual(list(value(after)), wanted)
        self.assertIsInstance(value(after), type(value(text)))

    def test_layout(self):
        text = 'A = [\n    "a",\n    "b"  # why\n]\n'
        self.assertEqual(insert_item(text, sequence(text), '"c"'), 'A = [\n    "a",\n    "b",  # why\n    "c",\n]\n')
        text = 'A = ["a",\n     "b"]\n'
        self.assertEqual(insert_item(text, sequence(text), '"c"'), 'A = ["a",\n     "b",\n     "c"]\n')

    def test_quotes_follow_the_neighbour(self):
        self.assertEqual(quoted_like("'x'", "tide"), "'tide'")
        self.assertEqual(quoted_like('"x"', "tide"), '"tide"')


class Imports(unittest.TestCase):
    def test_forms(self):
        for before, after in {
            "from u import path\n": "from u import include, path\n",
            "from u import include\n": "from u import include\n",
            "from u import (\n    path,\n)\n": "from u import (\n    include,\n    path,\n)\n",
            '"""Doc."""\nimport os\nX = 1\n': '"""Doc."""\nimport os\nfrom u import include\nX = 1\n',
            "X = 1\n": "from u import include\nX = 1\n",
            "": "from u import include\n",
            "from u import *\r\n": "from u import *\r\nfrom u import include\r\n",
        }.items():
            self.assertEqual(import_name(before, "u", "include"), after)


class Encodings(unittest.TestCase):
    @given(st.sampled_from(["utf-8", "latin-1"]), st.booleans(), st.sampled_from(["\n", "\r\n"]))
    def test_a_file_not_changed_is_the_same_bytes(self, encoding, mark, newline):
        if mark and encoding != "utf-8":
            return
        content = f"# coding: {encoding}{newline}X = 'ü'{newline}".encode(encoding)
        content = b"\xef\xbb\xbf" + content if mark else content
        self.assertEqual(SourceText.python(content).content(), content)
