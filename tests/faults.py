"""Every fault of a kit on its real host: the check names its cause first, and what mends it mends it."""

from __future__ import annotations

import fnmatch
import re
import shutil
import unittest
from functools import partial
from pathlib import Path

import swift_sprout
from swift_sprout.core.findings import AT_LINE
from swift_sprout.hosts.registry import kit_named
from swift_sprout.hosts.shared.faults import apply_fault
from trials.hosts import built_healthy, copy_host, runtime_options, trial
from trials.judging import faults_of, judge_all
from trials.places import RUNTIMES

from .support import Case, Ran, need_wordpress, sprout, tree_of


def program_without_sentences(folder: Path) -> Path:
    """Copy the program, and leave of the sentences of its rules but their values; returns where it is imported from."""
    copy = folder / "speechless"
    shutil.copytree(Path(swift_sprout.__file__).parent, copy / "swift_sprout")
    for path in copy.glob("swift_sprout/hosts/kits/*/rules.toml"):
        text = re.sub(r'(?m)^(cause|effect|mend) = "(.*)"$', _values_alone, path.read_text("utf-8"))
        path.write_text(text, "utf-8")
    return copy


def _values_alone(line: re.Match[str]) -> str:
    return f'{line[1]} = "~ {" ~ ".join(reversed(re.findall(r"{[^{}]+}", line[2])))}"'


class Faults(Case):
    """The faults of one kit.

    kit       -- the kit
    served    -- modules of the healthy host that are served
    at_least  -- faults that there must be
    elsewhere -- causes that a file alone cannot bring about, each with the place of its own test
    """

    kit = ""
    served = 4
    at_least = 0
    elsewhere: dict[str, str] = {}
    python: Path
    healthy: Path

    @classmethod
    def setUpClass(cls) -> None:
        if not cls.kit:
            raise unittest.SkipTest("the cases of one kit stand in its folder")
        if cls.kit == "wordpress":
            need_wordpress()
        cls.python = RUNTIMES[cls.kit]
        cls.healthy = built_healthy(cls.kit)

    def test_every_rule_has_a_fault_or_a_test_of_its_own(self) -> None:
        data = kit_named(self.kit).data
        below = {rule.code for rule in data.base.rules} if data.base is not None else set()
        codes = {rule.code for rule in data.rules} - below
        faults = {fault.code for fault in faults_of(self.kit)}
        self.assertEqual(codes - faults - set(self.elsewhere), set())
        self.assertEqual(faults - codes - below, set())

    def test_what_a_rule_follows_from_exists(self) -> None:
        rules = kit_named(self.kit).data.rules
        codes = {rule.code for rule in rules}
        for rule in rules:
            for code in rule.follows:
                named = code.removesuffix(AT_LINE)
                self.assertTrue(fnmatch.filter(codes, named), f"{rule.code} follows {code}")
            for text in (rule.cause, rule.effect, rule.mend):
                self.assertTrue(text.strip(), rule.code)

    @property
    def mendable(self) -> set[str]:
        return {rule.code for rule in kit_named(self.kit).data.rules if rule.mendable}

    def copy(self) -> Path:
        site = self.folder / "site"
        shutil.rmtree(site, ignore_errors=True)
        copy_host(self.kit, self.healthy, site)
        return site

    def run_on(self, site: Path, *words: str, **environment: str) -> Ran:
        return sprout(*words, "--host", site, *runtime_options(self.kit), cwd=None, stdin=None, **environment)

    def test_a_healthy_module_has_no_finding(self) -> None:
        ran = self.assert_ok(self.run_on(self.healthy, "check", "--format", "json"))
        self.assertEqual(ran.json["summary"]["findings"], 0, ran.out)
        self.assertEqual(ran.json["summary"]["served"], self.served)  # of the demo host, and two that were added

    def test_every_fault_is_named_first(self) -> None:
        verdicts = list(judge_all(self.kit, [], self.healthy, from_files=False))
        self.assertGreaterEqual(len(verdicts), self.at_least)
        for verdict in verdicts:
            with self.subTest(verdict.code):
                self.assertTrue(verdict.live, f"not named; got {verdict.got}")
                self.assertTrue(verdict.first, f"not first; got {verdict.got}")

    def test_every_mend_mends(self) -> None:
        """Apply the fault, mend, check again: the finding is gone, and undoing brings the ill site back.

        The program that mends has no sentences in its rules, only their values: what it does rests on those alone.
        """
        speechless = {"PYTHONPATH": str(program_without_sentences(self.folder)), "XDG_CACHE_HOME": str(self.folder)}
        for number, fault in enumerate(one for one in faults_of(self.kit) if one.code in self.mendable):
            with self.subTest(fault.code):
                site = self.copy()
                apply_fault(fault, site, partial(trial(self.kit).run_sql, site))
                trial(self.kit).stop(site)
                ill = tree_of(site)
                named = [fault.module] if kit_named(self.kit).data.rules[fault.code].mended_when_named else []
                #  that a preview writes nothing hangs on the edits, not on the host: it is seldom started for that
                how = ["--static"] if number % 3 else []
                preview = self.run_on(site, "check", *named, *how, "--mend", "--preview")
                self.assertNotIn("Traceback", preview.err)
                now = tree_of(site)
                differ = {path for path in {*now, *ill} if now.get(path) != ill.get(path)}
                self.assertEqual(
                    {path for path in differ if trial(self.kit).asking_writes and trial(self.kit).is_state(path)},
                    differ,
                )
                ran = self.run_on(site, "check", *named, "--mend", "--format", "json", **speechless)
                self.assertIn(fault.code, ran.json["mended"], ran.out + ran.err)
                findings = [
                    finding["code"]
                    for module in ran.json["after"]["setups"][0]["modules"]
                    for finding in module["findings"]
                ]
                self.assertNotIn(fault.code, findings)
                changed = {path for path, content in tree_of(site).items() if ill.get(path) != content}
                changed |= set(ill) - set(tree_of(site))
                told = {entry["path"] for entry in ran.json["files"]}
                self.assertEqual({path for path in changed if not trial(self.kit).is_state(path)}, told)
                while self.run_on(site, "undo", "--pass-over").status == 0:
                    pass
                after = tree_of(site)
                differ = {path for path in {*after, *ill} if after.get(path) != ill.get(path)}
                self.assertEqual({path for path in differ if not trial(self.kit).is_state(path)}, set())
