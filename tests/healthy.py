"""Healthy variants of a host: ways to write a module that look unusual, none of which may bring a finding."""

from __future__ import annotations

import shutil
import unittest
from functools import partial

from swift_sprout.actions.checking import check
from swift_sprout.actions.hosting import HostChoice, open_host
from swift_sprout.core.findings import Severity
from swift_sprout.hosts.shared.faults import Fault, apply_fault
from trials.hosts import HAND_MADE, built_healthy, copy_host, trial
from trials.places import RUNTIMES

from .support import Case, need_wordpress

Step = dict[str, str]
#  by its name: the steps that change the healthy host, and whether to ask the running host as well
Variants = dict[str, tuple[list[Step], bool]]


class Healthy(Case):
    """The variants of one kit."""

    kit = ""
    variants: Variants = {}
    true_of_edits: tuple[str, ...] = ()  # codes of notes that hold as long as an edited host was not settled

    @classmethod
    def setUpClass(cls) -> None:
        if not cls.kit:
            raise unittest.SkipTest("the cases of one kit stand in its folder")
        if cls.kit == "wordpress":
            need_wordpress()

    def test_no_variant_brings_a_finding(self) -> None:
        for name, (steps, live) in self.variants.items():
            with self.subTest(name):
                site = self.folder / "site"
                shutil.rmtree(site, ignore_errors=True)
                copy_host(self.kit, built_healthy(self.kit), site)
                apply_fault(Fault(name, tuple(steps), "", HAND_MADE, 30), site, partial(trial(self.kit).run_sql, site))
                opened = open_host(HostChoice(str(site), self.kit, str(RUNTIMES[self.kit])))
                for static in (True, False) if live else (True,):
                    found = check(opened, [], static=static)
                    #  files alone may say that they do not tell; a running host is sure
                    told = [one for one in found.findings if not static or one.severity is not Severity.NOTE]
                    said = [
                        f"{one.code} {one.place}: {one.cause}" for one in told if one.code not in self.true_of_edits
                    ]
                    self.assertEqual(said, [])
                    self.assertEqual([setup.failure for setup in found.setups], [""])
                trial(self.kit).stop(site)
