"""Named tuples behave as those of the standard library, before and after they compile what makes them."""

from __future__ import annotations

import copy
import pickle
import re
import subprocess
import sys
import typing
import unittest
from pathlib import Path

from swift_sprout.core import namedtuples
from swift_sprout.core.namedtuples import NamedTuple

SOURCE = Path(__file__).resolve().parents[2] / "src" / "swift_sprout"


class Berth(NamedTuple):
    """One of ours."""

    name: str
    metres: int = 12
    boats: tuple[str, ...] = ()

    @property
    def long(self) -> bool:
        return self.metres > 20


class Slip(typing.NamedTuple):
    """One with the same fields, made as Python makes them."""

    name: str
    metres: int = 12
    boats: tuple[str, ...] = ()


class Mooring(Berth):
    """One that inherits its fields."""


MAKINGS: tuple[tuple[tuple[typing.Any, ...], dict[str, typing.Any]], ...] = (
    (("Long Pier",), {}),
    (("Long Pier", 30), {}),
    (("Long Pier", 30, ("Tern",)), {}),
    (("Long Pier",), {"boats": ("Tern",)}),
    ((), {"name": "Long Pier", "metres": 3}),
    ((), {}),
    (("Long Pier",), {"name": "Quay"}),
    (("Long Pier",), {"depth": 4}),
    (("Long Pier", 1, (), 4), {}),
)


def outcome(kind: typing.Any, values: tuple[typing.Any, ...], named: dict[str, typing.Any]) -> object:
    """Return the fields of what is made, or that it was refused."""
    try:
        return tuple(kind(*values, **named))
    except TypeError:
        return "refused"


class NamedTuples(unittest.TestCase):
    def test_makes_and_refuses_what_python_does(self) -> None:
        for rounds in range(2):
            for values, named in MAKINGS:
                with self.subTest(values=values, named=named, compiled=bool(rounds)):
                    self.assertEqual(outcome(Slip, values, named), outcome(Berth, values, named))
            for number in range(namedtuples.WORTH_COMPILING + 1):  # type: ignore[attr-defined]
                self.assertEqual(number, Berth("Long Pier", number).metres)

    def test_each_class_makes_its_own_kind(self) -> None:
        for number in range(60):
            made = (Mooring(f"Buoy {number}"), Berth(f"Berth {number}"))
            self.assertEqual([Mooring, Berth], [type(one) for one in made])
        self.assertTrue(Mooring("Buoy", 40).long)

    def test_reads_as_one_that_python_made(self) -> None:
        ours, theirs = Berth("Long Pier", 30), Slip("Long Pier", 30)
        self.assertEqual(repr(theirs).replace("Slip", "Berth"), repr(ours))
        self.assertEqual(theirs._asdict(), ours._asdict())
        self.assertEqual(theirs._fields, ours._fields)
        self.assertEqual(theirs._field_defaults, ours._field_defaults)
        self.assertEqual(hash(theirs), hash(ours))
        self.assertEqual(ours, theirs)
        match ours:
            case Berth(name, metres):
                self.assertEqual(("Long Pier", 30), (name, metres))

    def test_replaces_copies_and_travels(self) -> None:
        one = Berth("Long Pier")._replace(metres=8)
        self.assertEqual(Berth("Long Pier", 8), one)
        self.assertIs(Berth, type(one))
        unknown: dict[str, typing.Any] = {"depth": 3}
        with self.assertRaises(ValueError):
            one._replace(**unknown)
        for same in (copy.copy(one), copy.deepcopy(one), pickle.loads(pickle.dumps(one))):
            self.assertEqual((one, Berth), (same, type(same)))

    def test_nothing_of_it_can_be_changed(self) -> None:
        one: typing.Any = Berth("Long Pier")
        for name in ("name", "depth"):
            with self.assertRaises(AttributeError):
                setattr(one, name, "Quay")

    def test_the_program_defines_no_other(self) -> None:
        """A class that takes the slow one makes every start slower: nobody would see it."""
        slow = [
            path.relative_to(SOURCE).as_posix()
            for path in SOURCE.rglob("*.py")
            if re.search(r"^ *from typing import .*\bNamedTuple", path.read_text("utf-8"), re.MULTILINE)
        ]
        self.assertEqual(["core/namedtuples.py"], slow)

    def test_also_where_the_interpreter_has_no_getter_of_its_own(self) -> None:
        told = subprocess.run(
            [
                sys.executable,
                "-c",
                "import collections, _collections\ndel _collections._tuplegetter\n"
                "from swift_sprout.core.namedtuples import NamedTuple\n"
                "class Buoy(NamedTuple):\n    name: str\n    lit: bool = True\n"
                "print(Buoy('Skerry'), Buoy('Skerry', False).lit)",
            ],
            capture_output=True,
            text=True,
            check=True,
            timeout=60,
        )
        self.assertEqual("Buoy(name='Skerry', lit=True) False", told.stdout.strip())
