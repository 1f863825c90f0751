"""Carrying a change of generated files into files that people have edited."""

from __future__ import annotations

import ast
import codecs
import unittest

from swift_sprout.edits.carrying import NotCarried, carry, three_way

BEFORE = b"""from django.db import models
from django.utils.translation import gettext_lazy as _


class Berth(models.Model):
    name = models.CharField(_("Name"), max_length=40)

    class Meta:
        ordering = ["name"]

    def __str__(self):
        return self.name
"""
AFTER = b"""import datetime

from django.db import models
from django.utils.translation import gettext_lazy as _


class Berth(models.Model):
    name = models.CharField(_("Name"), max_length=40)
    dredged = models.DateField(_("Dredged"), default=datetime.date.today)

    class Meta:
        ordering = ["name", "dredged"]
        permissions = [("close", "Close")]

    def __str__(self):
        return self.name


class Booking(models.Model):
    vessel = models.CharField(_("Vessel"), max_length=60)

    def __str__(self):
        return self.vessel
"""
HAND = b"""# -*- coding: utf-8 -*-
# kept by the harbour office
from django.db import models
from django.utils.translation import gettext_lazy as _  # both


TIDE = 3  # metres


class Berth(models.Model):
\t'''A place to moor.'''
\tname = models.CharField(_('Name'), max_length=40)  # painted on the wall
\tnote = models.TextField()

\tclass Meta:
\t\tordering = [
\t\t\t'name',
\t\t]

\tdef __str__(self):
\t\treturn self.name

\tdef depth(self):
\t\treturn TIDE


def helper():
\tpass
"""


class Python(unittest.TestCase):
    def test_a_change_lands_in_an_edited_file_and_all_else_stays(self):
        carried = carry("models.py", HAND, BEFORE, AFTER).decode()
        ast.parse(carried)
        for line in HAND.decode().splitlines():
            self.assertIn(line + "\n", carried)
        self.assertTrue(
            carried.startswith("# -*- coding: utf-8 -*-\n# kept by the harbour office\nimport datetime\n\n")
        )
        self.assertIn("\tdredged = models.DateField", carried)
        self.assertIn('\t\tpermissions = [("close", "Close")]\n', carried)
        self.assertIn("\tdef __str__(self):\n\t\treturn self.vessel\n", carried)
        self.assertRegex(carried, r"'name',\n\t\t\t\"dredged\",\n\t\t\]")

    def test_twice_is_once(self):
        once = carry("models.py", HAND, BEFORE, AFTER)
        self.assertEqual(carry("models.py", once, BEFORE, AFTER), once)
        self.assertEqual(carry("models.py", BEFORE, BEFORE, AFTER), AFTER)
        self.assertEqual(carry("models.py", AFTER, BEFORE, AFTER), AFTER)

    def test_line_ends_marks_and_encodings_stay(self):
        windows = HAND.replace(b"\n", b"\r\n")
        carried = carry("models.py", windows, BEFORE, AFTER)
        self.assertNotIn(b"\n", carried.replace(b"\r\n", b""))
        self.assertEqual(carried.replace(b"\r\n", b"\n"), carry("models.py", HAND, BEFORE, AFTER))
        marked = codecs.BOM_UTF8 + HAND
        self.assertTrue(carry("models.py", marked, BEFORE, AFTER).startswith(codecs.BOM_UTF8 + b"# -*-"))
        latin = HAND.replace(b"utf-8", b"latin-1").replace(b"metres", "Ufer-H\xf6he".encode("latin-1"))
        carried = carry("models.py", latin, BEFORE, AFTER)
        self.assertIn("Ufer-H\xf6he".encode("latin-1"), carried)
        with self.assertRaises(NotCarried):  # a letter that the file's encoding does not have
            carry("models.py", latin, BEFORE, AFTER.replace(b'"Close"', '"閉"'.encode()))

    def test_a_file_with_both_line_ends_keeps_those_of_its_lines(self):
        mixed = BEFORE.replace(b"    class Meta:\n", b"    class Meta:\r\n")
        carried = carry("models.py", mixed, BEFORE, AFTER)
        self.assertIn(b"    class Meta:\r\n", carried)
        self.assertEqual(carried.count(b"\r\n"), 1)

    def test_a_file_that_does_not_parse_names_its_line(self):
        with self.assertRaises(NotCarried) as caught:
            carry("models.py", HAND.replace(b"def helper():", b"def helper("), BEFORE, AFTER)
        self.assertGreater(caught.exception.line, 20)

    def test_a_class_of_the_same_name_written_by_hand_is_never_touched(self):
        hand = HAND + b"\n\nclass Booking(models.Model):\n\tmine = models.TextField()\n"
        with self.assertRaises(NotCarried) as caught:
            carry("models.py", hand, BEFORE, AFTER)
        self.assertIn("Booking stands there already", caught.exception.reason)

    def test_a_name_that_stands_for_something_else_is_told(self):
        before, after = (
            b"from . import views\n\nurlpatterns = []\n",
            b"from . import views\n\nurlpatterns = [views.a]\n",
        )
        with self.assertRaises(NotCarried) as caught:
            carry("urls.py", b"from ferries import views\n\nurlpatterns = []\n", before, after)
        self.assertIn("views stands for something else", caught.exception.reason)
        carried = carry("urls.py", b"from .views import Timetable\n\nurlpatterns = [Timetable]\n", before, after)
        self.assertEqual(
            carried, b"from . import views\nfrom .views import Timetable\n\nurlpatterns = [Timetable, views.a]\n"
        )

    def test_lists_and_dictionaries_grow_in_their_own_form(self):
        before = b'GROUPS = {\n    "A": {\n        "may": [\n            "x",\n        ],\n    },\n}\n'
        after = (
            b'GROUPS = {\n    "A": {\n        "may": [\n            "x",\n            "y",\n        ],\n    },\n'
            b'    "B": {\n        "may": [\n            "z",\n        ],\n    },\n}\n'
        )
        hand = b"GROUPS = {\n    'A': {'may': ['x', 'mine']},  # clerks\n}\n"
        carried = carry("groups.py", hand, before, after)
        space: dict[str, object] = {}
        exec(carried, space)
        self.assertEqual(space["GROUPS"], {"A": {"may": ["x", "y", "mine"]}, "B": {"may": ["z"]}})
        self.assertIn(b"# clerks\n", carried)
        with self.assertRaises(NotCarried):
            carry("groups.py", b"GROUPS = {}\n", before, after)
        only_b = before[:-2] + after[after.index(b'    "B"') :]
        self.assertEqual(carry("groups.py", b"GROUPS = {}\n", b"GROUPS = {}\n", only_b).count(b'"B"'), 1)

    def test_values_change_only_where_the_generated_one_still_stands(self):
        before, after = b"TITLE = 'a'\nsize = 1\n", b"TITLE = 'b'\nsize = 1\n"
        self.assertEqual(
            carry("x.py", b"size = 2  # mine\nTITLE = 'a'\n", before, after), b"size = 2  # mine\nTITLE = 'b'\n"
        )
        with self.assertRaises(NotCarried) as caught:
            carry("x.py", b"TITLE = 'mine'\nsize = 1\n", before, after)
        self.assertEqual(caught.exception.line, 1)

    def test_what_is_gone_is_taken_out_unless_it_was_changed(self):
        before, after = b"def a():\n    return 1\n\n\ndef b():\n    return 2\n", b"def b():\n    return 2\n"
        hand = b"def a():\n    return 1\n\n\ndef b():\n    return 2\n\n\ndef mine():\n    return 3\n"
        carried = carry("x.py", hand, before, after)
        self.assertNotIn(b"def a", carried)
        self.assertIn(b"def mine", carried)
        with self.assertRaises(NotCarried):
            carry("x.py", hand.replace(b"return 1", b"return 9"), before, after)

    def test_bodies_of_functions_grow(self):
        before = b"class C(A):\n    def ready(self):\n        from . import listeners\n"
        after = b"class C(A):\n    def ready(self):\n        from .groups import settle\n\n        settle(self)\n        from . import listeners\n"
        hand = (
            b"class C(A):\n    def ready(self):\n        print('on')\n        from . import listeners\n        mine()\n"
        )
        carried = carry("apps.py", hand, before, after)
        ast.parse(carried)
        for piece in (b"print('on')", b"mine()", b"settle(self)", b"from .groups import settle"):
            self.assertEqual(carried.count(piece), 1, carried)


class Texts(unittest.TestCase):
    def test_two_changes_of_one_text_are_merged_or_refused(self):
        before, after = b"a\nb\nc\nd\n", b"a\nb\nc\nd\ne\n"
        self.assertEqual(carry("x.html", b"mine\na\nb\nc\nd\n", before, after), b"mine\na\nb\nc\nd\ne\n")
        with self.assertRaises(NotCarried):
            carry("x.html", b"a\nb\nc\nmine\n", before, b"a\nb\nc\ntheirs\n")
        with self.assertRaises(NotCarried):
            carry("x.html", b"a\0b", before, after)

    def test_conflicts_stand_between_the_usual_marks(self):
        text, lines = three_way("a\nmine\n", "a\nb\n", "a\ntheirs\n", ("yours", "theirs"))
        self.assertEqual(lines, [2])
        self.assertEqual(text, "a\n<<<<<<< yours\nmine\n=======\ntheirs\n>>>>>>> theirs\n")
