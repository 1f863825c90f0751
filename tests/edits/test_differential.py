"""Random settings in the grammar of real projects, edited, and judged by the language itself.

Each source is run before and after an edit: only the intended entry may differ, whatever separators, encodings, comments
and layouts stand around it. An edit that refuses is fine; one that changes something else is not.
"""

from __future__ import annotations

import ast
import random
import unittest

from swift_sprout.edits.carrying import NotCarried
from swift_sprout.edits.python import Sequenced, import_name, insert_item, remove_item
from swift_sprout.edits.source import SourceText

ROUNDS = 2500
SEPARATORS = ("\u2028", "\u2029", "\x85", "\x0b", "\x1c", "\x1d", "\x1e", "\x0c", "\u00a0", "\ufeff", "é", "港", "\t")
ENDS = ("\n", "\r\n", "\r")
NAMES = ("ferries", "tide_board", "berth_register", "django.contrib.admin", "harbour.office", "ferries.apps.Ferries")


class Random:
    """Makes sources, always the same ones."""

    def __init__(self, seed: int) -> None:
        self.chance = random.Random(seed)
        self.end = self.chance.choice(ENDS)
        self.addresses = self.chance.random() < 0.3  # a file of addresses, not of settings

    def one(self, *choices: str) -> str:
        return self.chance.choice(choices)

    def strange(self) -> str:
        return "".join(self.chance.choice(SEPARATORS) for _ in range(self.chance.randrange(3)))

    def remark(self) -> str:
        text = self.strange().replace("\x0c", "")
        return self.one("", "", f"  # {text}, [see], 'ferries',")

    def literal(self, name: str) -> str:
        quote = self.one('"', "'", '"""')
        return self.one("", "", "", "r", "u") + quote + name + quote

    def element(self, name: str) -> str:
        if self.addresses:
            label = self.one("", f", name={self.literal(name)}")
            target = self.one(f"include({self.literal(name)})", f"include(({self.literal(name)}, 'x'))", "include([])")
            return f"re_path({self.literal(name)}, {target}{label})"
        return self.one(self.literal(name), self.literal(name), f"({self.literal(name)})", f"str({self.literal(name)})")

    def items(self, names: list[str]) -> str:
        if self.chance.random() < 0.4 or not names:
            inner = self.one(", ", ",", " , ").join(self.element(name) for name in names)
            return inner + (self.one("", ",", ", ") if names else "")
        indent = self.one("    ", "\t", "  ")
        lines = [f"{indent}{self.element(name)},{self.remark()}" for name in names]
        if self.chance.random() < 0.3:
            lines.insert(self.chance.randrange(len(lines) + 1), f"{indent}# {self.one('more', 'that is all')}")
        if self.chance.random() < 0.3:
            lines[-1] = lines[-1].replace(",", "", 1) if not lines[-1].lstrip().startswith("#") else lines[-1]
        return self.end + self.end.join(lines) + self.end

    def assignment(self, name: str, names: list[str]) -> str:
        start, stop = self.chance.choice((("[", "]"), ("(", ")"), ("[", "]")))
        text = self.items(names)
        if start == "(" and len(names) == 1 and "," not in text:
            text += ","
        return f"{name}{self.one(' = ', '=', ': list = ' if start == '[' else ' = ')}{start}{text}{stop}{self.remark()}"

    def source(self) -> str:
        count = self.chance.randrange(5)
        names = [self.chance.choice(NAMES) for _ in range(count)]
        before = [
            self.one("", f'"""Settings {self.strange()} of the quay."""'),
            "def re_path(*given, **named): return given, tuple(named.items())",
            "include = repr",
            self.one(
                "import os",
                "from pathlib import Path",
                "import os, sys",
                "from os import (\n    path,\n)".replace("\n", self.end),
            ),
            f"NOTE = 'tide{self.strange()}board'  # {self.strange()}",
            self.one(f'TEXT = """{self.end}[{self.end}"ferries",{self.strange()}{self.end}]"""', "X = 1; Y = [2]", ""),
            self.assignment("OTHERS", ["ferries", "tide_board"]),
        ]
        after = [self.assignment("MORE", ["ferries"]), self.one("", "LAST = 'é'")]
        return self.end.join([*before, self.assignment("APPS", names), *after]) + self.one(self.end, "")


def values(text: str) -> dict[str, object]:
    """Run a source and return what it sets."""
    found: dict[str, object] = {}
    exec(compile(text, "settings.py", "exec"), found)
    return {name: value for name, value in found.items() if name.isupper()}


def list_named(text: str, name: str) -> Sequenced:
    for node in ast.parse(text).body:
        target = node.targets[0] if isinstance(node, ast.Assign) else getattr(node, "target", None)
        if isinstance(target, ast.Name) and target.id == name:
            assert isinstance(node, ast.Assign | ast.AnnAssign) and isinstance(node.value, Sequenced)
            return node.value
    raise AssertionError(name)


class Differential(unittest.TestCase):
    def sources(self) -> list[tuple[Random, str]]:
        found = []
        for seed in range(ROUNDS):
            maker = Random(seed)
            text = maker.source()
            try:
                values(text)
                list_named(text, "APPS")
            except (SyntaxError, AssertionError, ValueError):
                continue  # no source, or no list
            found.append((maker, text))
        self.assertGreater(len(found), ROUNDS * 0.6)
        return found

    def test_an_item_is_put_in_and_nothing_else_changes(self):
        refused = 0
        cases = self.sources()
        for maker, text in cases:
            node = list_named(text, "APPS")
            at = maker.chance.randrange(len(node.elts) + 1)
            before = maker.chance.choice((None, at))
            try:
                result = insert_item(text, node, '"signal_mast"', before=before)
            except NotCarried:
                refused += 1
                continue
            expected = values(text)
            apps = list(expected["APPS"])  # type: ignore[call-overload]
            apps.insert(len(apps) if before is None else before, "signal_mast")
            now = values(result)
            self.assertEqual(list(now.pop("APPS")), apps, repr(text))  # type: ignore[call-overload]
            expected.pop("APPS")
            self.assertEqual(now, expected, repr(text))
            self.kept_around(text, result, ['"signal_mast"'])
        self.assertLess(refused, len(cases) * 0.05)

    def test_an_item_is_taken_out_and_nothing_else_changes(self):
        refused = count = 0
        for maker, text in self.sources():
            node = list_named(text, "APPS")
            if not node.elts:
                continue
            count += 1
            at = maker.chance.randrange(len(node.elts))
            try:
                result = remove_item(text, node, at)
            except NotCarried:
                refused += 1
                continue
            expected = values(text)
            apps = list(expected["APPS"])  # type: ignore[call-overload]
            del apps[at]
            now = values(result)
            self.assertEqual(list(now.pop("APPS")), apps, repr(text))  # type: ignore[call-overload]
            expected.pop("APPS")
            self.assertEqual(now, expected, repr(text))
            self.assertTrue(set(result) <= set(text) | set("(),"), repr(text))
        self.assertLess(refused, count * 0.05)

    def test_a_name_is_imported_and_nothing_else_changes(self):
        refused = 0
        cases = self.sources()
        for maker, text in cases:
            module, name = maker.chance.choice((("os", "sep"), ("pathlib", "PurePath"), ("string", "digits")))
            try:
                result = import_name(text, module, name)
            except NotCarried:
                refused += 1
                continue
            self.assertEqual(values(result), values(text), repr(text))
            bound: dict[str, object] = {}
            exec(compile(result, "settings.py", "exec"), bound)
            self.assertIn(name, bound)
        self.assertLess(refused, len(cases) * 0.1)

    def kept_around(self, text: str, result: str, added: list[str]) -> None:
        """Demand that all that stood there stands there still, in order."""
        rest = result
        for piece in added:
            rest = rest.replace(piece, "", 1)
        wanted, place = [letter for letter in text if letter not in " \t\r\n,"], 0
        for letter in rest:
            if place < len(wanted) and letter == wanted[place]:
                place += 1
        self.assertEqual(place, len(wanted), repr(text))

    def test_encodings_and_marks_come_through(self):
        for seed in range(300):
            text = Random(seed).source()
            for encoding, head in (("utf-8", ""), ("utf-8-sig", ""), ("latin-1", "# -*- coding: latin-1 -*-\n")):
                try:
                    content = (head + text).encode(encoding)
                    source = SourceText.python(content)
                    node = list_named(source.text, "APPS")
                except (UnicodeEncodeError, SyntaxError, AssertionError, ValueError):
                    continue
                self.assertEqual(source.content(), content)
                try:
                    changed = insert_item(source.text, node, "'signal_mast'")
                except NotCarried:
                    continue
                again = SourceText.python(source.with_text(changed).content())
                self.assertEqual(again.text, changed)
                self.assertEqual((again.encoding, again.bom), (source.encoding, source.bom))


if __name__ == "__main__":
    unittest.main()
