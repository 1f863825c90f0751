"""Properties that are worked out once behave as those of the standard library."""

import functools
import unittest
from typing import Any

from swift_sprout.core.cached import cached_property


class Tide:
    """One whose height is read off once."""

    def __init__(self) -> None:
        self.read = 0

    @cached_property
    def height(self) -> int:
        """In centimetres."""
        self.read += 1
        return 100 + self.read


class Ebb(Tide):
    """The same, as Python works it out."""

    @functools.cached_property
    def height(self) -> int:
        """In centimetres."""
        self.read += 1
        return 100 + self.read


class Cached(unittest.TestCase):
    def test_it_is_worked_out_once_and_can_be_put_and_forgotten(self) -> None:
        kinds: tuple[Any, ...] = (Tide, Ebb)
        for kind in kinds:
            with self.subTest(kind):
                one, other = kind(), kind()
                self.assertEqual((one.height, one.height, one.read), (101, 101, 1))
                self.assertEqual(other.read, 0)
                self.assertIn("height", one.__dict__)
                del one.height
                self.assertEqual(one.height, 102)
                one.height = 7
                self.assertEqual(one.height, 7)
                self.assertEqual(kind.height.__doc__, "In centimetres.")


if __name__ == "__main__":
    unittest.main()
