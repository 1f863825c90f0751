"""Where in a host an exception comes from: the line, the function that was called wrongly, the class worked on."""

import importlib
import sys
import tempfile
import unittest
from pathlib import Path
from typing import Any

from ..support import in_host_module

OWN = """class Chart:
    scale = 25

    def depth(self, place):
        return self.soundings[place]


class Deep(Chart):
    soundings = {}


def tide(day):
    return day + 1
"""
#  what a package would hold: it works on the host's classes and calls its functions
PACKAGE = """def draw(chart):
    return Drawing(chart).begin()


class Drawing:
    def __init__(self, chart):
        self.chart = chart

    def begin(self):
        return self.chart.colour


class Works:
    def work(self):
        raise LookupError("nothing to work on")


def call(function, *given):
    return function(*given)
"""


class Causes(unittest.TestCase):
    causes: Any

    @classmethod
    def setUpClass(cls) -> None:
        cls.causes = in_host_module("sprout_causes")

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.root = Path(folder.name).resolve() / "host"
        packages = self.root.parent / "packages"
        for place, name, text in ((self.root, "own_charts", OWN), (packages, "their_drawing", PACKAGE)):
            place.mkdir(exist_ok=True)
            (place / f"{name}.py").write_text(text, "utf-8")
            sys.path.insert(0, str(place))
            self.addCleanup(sys.path.remove, str(place))
            self.addCleanup(sys.modules.pop, name, None)
        self.own: Any = importlib.import_module("own_charts")
        self.theirs: Any = importlib.import_module("their_drawing")

    def raised(self, work: Any) -> BaseException:
        try:
            work()
        except Exception as error:
            return error
        raise AssertionError("nothing was raised")

    def place(self, error: BaseException) -> tuple[str, int] | None:
        found = self.causes.described(error, str(self.root))["place"]
        return (Path(found[0]).name, found[1]) if found is not None else None

    def test_the_deepest_line_of_the_host_comes_first(self) -> None:
        error = self.raised(lambda: self.theirs.call(self.own.Deep().depth, "north"))
        self.assertEqual(self.place(error), ("own_charts.py", 5))

    def test_a_function_called_wrongly_is_told_where_it_begins(self) -> None:
        self.assertEqual(self.place(self.raised(lambda: self.theirs.call(self.own.tide))), ("own_charts.py", 12))

    def test_so_is_a_method_that_only_its_qualified_name_tells(self) -> None:
        self.assertEqual(self.causes.defined("Chart.depth", str(self.root)), (str(self.root / "own_charts.py"), 4))
        self.assertIsNone(self.causes.defined("Chart.width", str(self.root)))
        self.assertIsNone(self.causes.defined("Drawing.begin", str(self.root)))

    def test_a_name_that_the_host_has_twice_tells_nothing(self) -> None:
        (self.root / "own_second.py").write_text(OWN, "utf-8")
        importlib.import_module("own_second")
        self.addCleanup(sys.modules.pop, "own_second", None)
        self.assertIsNone(self.causes.defined("tide", str(self.root)))

    def test_a_class_of_the_host_that_a_package_works_on_is_told(self) -> None:
        kind = type("Plain", (self.theirs.Works,), {"__module__": "own_charts"})
        error = self.raised(kind().work)
        self.assertIsNone(self.causes.class_passed(error, str(self.root)), "it is made by code, and has no line")
        self.own.Deep.work = self.theirs.Works.work
        self.assertEqual(self.place(self.raised(self.own.Deep().work)), ("own_charts.py", 8))

    def test_the_class_that_something_is_about_is_the_last_resort(self) -> None:
        error = self.raised(self.theirs.Works().work)
        self.assertIsNone(self.place(error))
        found = self.causes.described(error, str(self.root), self.own.Chart)["place"]
        self.assertEqual((Path(found[0]).name, found[1]), ("own_charts.py", 1))
        self.assertIsNone(self.causes.described(error, str(self.root), self.theirs.Works)["place"])
