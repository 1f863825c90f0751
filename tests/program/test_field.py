"""Hosts in styles that no generator of ours writes: each fault is named first, and what is right brings no finding."""

import shutil
import tempfile
from pathlib import Path

from swift_sprout.hosts.shared.faults import Fault, apply_fault
from trials.field import HERE, Style, apart, cases, prepared, sharing, styles, tell
from trials.field import Case as Changed

from ..support import Case, sprout


class Field(Case):
    hosts: list[tuple[Style, Path]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.hosts = []
        for style in styles():
            folder = tempfile.TemporaryDirectory()
            cls.addClassCleanup(folder.cleanup)
            cls.hosts.append((style, prepared(style, Path(folder.name).resolve())))

    def each(self, healthy: bool) -> list[tuple[Style, Path]]:
        for style, _ in self.hosts:
            self.assertGreaterEqual(len(cases(style, healthy)), 5)
        return self.hosts

    def test_what_is_right_brings_no_finding(self):
        for style, host in self.each(healthy=True):
            for case in apart(cases(style, healthy=True)):
                with self.subTest(f"{style.name}: {case.name}"):
                    [(_, *checks)] = tell(style, [case], host)
                    for told in checks:
                        self.assertEqual([f"{one.code} {one.place}: {one.cause}" for one in told.findings], [])
                        self.assertEqual(told.failure, "")

    def test_what_files_cannot_tell_they_say_as_a_note(self):
        for name, case, wanted in (
            ("slipway", "the list of modules read from the folder", "registered.unsure"),
            ("slipway", "addresses that are registered in a loop", "routed.unsure"),
            ("tower", "modules that are looked up by name", "registered.unsure"),
        ):
            style = next(one for one in styles() if one.name == name)
            changed = next(one for one in cases(style, healthy=True) if one.name == case)
            site = self.folder / case
            shutil.copytree(HERE / name / "host", site)
            apply_fault(Fault(case, changed.steps, "", "", 60), site)
            ran = sprout("check", "--static", "--format", "json", "--host", site, *style.options)
            self.assertEqual(ran.status, 0, ran.out)
            told = [one for module in ran.json["setups"][0]["modules"] for one in module["findings"]]
            self.assertEqual({(one["code"], one["severity"]) for one in told}, {(wanted, "note")})

    def test_each_fault_is_named_first_and_files_alone_do_not_mislead(self):
        for style, host in self.each(healthy=False):
            from_files = 0
            for batch in sharing(cases(style, healthy=False)):
                for case, static, live in tell(style, batch, host):
                    with self.subTest(f"{style.name}: {case.name}"):
                        self.assertEqual(live.first, case.wanted, live.failure)
                        self.assertIn(static.first.partition(" ")[2], ("", case.file))
                        from_files += bool(static.first)
            self.assertGreaterEqual(from_files, style.from_files * len(cases(style, healthy=False)))

    def test_faults_that_hide_each_other_are_each_tried_alone(self):
        style, host = next((style, host) for style, host in self.hosts if style.name == "breakwater")
        absent = next(case for case in cases(style, healthy=False) if case.name == "a template of another name")
        #  what cannot be compiled hides what the code would do
        steps = ({"file": absent.file, "old": "def today():", "new": "def today()"},)
        broken = Changed("a colon left out", steps, "described.syntax", absent.file)
        told = [(case.name, live.first) for case, _, live in tell(style, [absent, broken], host)]
        self.assertEqual(told, [(absent.name, absent.wanted), (broken.name, broken.wanted)])
