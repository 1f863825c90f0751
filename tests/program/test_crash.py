"""Commands that are ended at their file operations, one of several each: ``make crash`` ends them at all of them."""

import tempfile
import unittest
from pathlib import Path

from trials.crash.cases import cases
from trials.crash.interrupting import FAILURES, KILLED, ON_TWO_DISKS, TOLD, WITHOUT_LINKS
from trials.crash.runs import Bench
from trials.hosts import built_demo
from trials.places import RUNTIMES

from ..support import need_wordpress

BAD = ("torn", "no boot", "tracebacks")


class Ended(unittest.TestCase):
    def ended(self, kit: str, commands: dict[str, int], endings: tuple[str, ...] = (KILLED,)) -> int:
        """End commands of a kit, each at every n-th operation; returns how often."""
        points = 0
        for case in cases(kit):
            if case.name not in commands:
                continue
            with tempfile.TemporaryDirectory() as place:
                bench = Bench(kit, case, built_demo(kit), Path(place).resolve())
                for ending in endings:
                    with self.subTest(f"{kit} {case.name} {ending}"):
                        result = bench.run(ending, commands[case.name])
                        self.assertEqual([result.counts[one] for one in BAD], [0, 0, 0], result.line())
                        self.assertGreater(result.counts["before"], 1)
                        points += result.counts["points"]
        return points

    def test_on_django_killed(self):
        every = {"new": 12, "add": 11, "refresh": 12, "undo": 13, "enable": 13, "remove": 24, "drop": 220}
        self.assertGreater(self.ended("django", every), 16)

    def test_on_django_failing(self):
        for number, ending in enumerate(FAILURES):
            command = ("new", "add", "refresh", "undo")[number]
            self.assertGreater(self.ended("django", {command: 6}, (ending,)), 3)

    def test_on_django_told_to_end_and_on_odd_file_systems(self):
        for ending, commands in (
            (TOLD, ("new", "refresh")),
            (WITHOUT_LINKS, ("add", "undo")),
            (ON_TWO_DISKS, ("new", "undo")),
        ):
            self.assertGreater(self.ended("django", dict.fromkeys(commands, 9), (ending,)), 3)

    def test_on_the_other_hosts(self):
        self.assertGreater(self.ended("flask", {"add": 7, "undo": 10, "enable": 6}), 9)
        self.assertGreater(self.ended("trytond", {"add": 12, "enable": 9}), 5)
        for kit in ("wagtail", "oscar"):
            if RUNTIMES[kit].exists():
                self.assertGreater(self.ended(kit, {"add": 13}), 3)

    def test_on_wordpress(self):
        need_wordpress()
        self.assertGreater(self.ended("wordpress", {"add": 10, "undo": 13, "enable": 13}), 6)
