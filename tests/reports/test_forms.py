"""The forms of a report by themselves, on results made by hand: odd texts, many modules, failures of the host."""

import io
import json
import os
import unittest
from pathlib import Path
from unittest import mock
from xml.etree import ElementTree

from swift_sprout.core.errors import Refused
from swift_sprout.core.findings import Finding, Severity
from swift_sprout.core.ladder import Rung, State, build_ladder
from swift_sprout.core.refresh import refreshes
from swift_sprout.core.results import CheckResult, ModuleCheck, SetupCheck
from swift_sprout.hosts.contract.kitdata import matches
from swift_sprout.hosts.kits.django.kit import KIT
from swift_sprout.reports.documents import check as check_document
from swift_sprout.reports.junit import junit
from swift_sprout.reports.page import page
from swift_sprout.reports.rulepages import RulePages, check_address
from swift_sprout.reports.sarif import sarif
from swift_sprout.reports.terminal import Terminal
from swift_sprout.reports.text.check import check as check_text
from swift_sprout.reports.widths import width

ODD = "<b>&\"'\x00\x1b[31m 潮 🌊"


def finding(code: str = "registered.not-listed", **more: object) -> Finding:
    values = {
        "code": code,
        "rung": Rung.REGISTERED,
        "severity": Severity.ERROR,
        "module": "tides",
        "file": "quay/sett ings.py",
        "line": 3,
        "cause": ODD,
        "effect": "absent",
        "mend": "swift-sprout enable tides",
        **more,
    }
    return Finding(**values)  # type: ignore[arg-type]


def result(*findings: Finding, failure: str = "") -> CheckResult:
    setup = SetupCheck("real", True, "5.2.1")
    setup.failure, setup.failure_remedy = failure, "look" if failure else ""
    failed = {one.rung: one.cause for one in findings if one.severity is Severity.ERROR}
    passed = dict.fromkeys(Rung, (State.PASS, ODD))
    ladder = build_ladder(passed, failed)
    setup.modules = [ModuleCheck("tides", ODD, ladder, list(findings), ["/tides/"], [("/tides/" + "x" * 80, 0.012)])]
    return CheckResult("django", "Django", "/nowhere", [setup], 1.25)


class Junit(unittest.TestCase):
    def test_any_text_makes_well_formed_xml(self):
        root = ElementTree.fromstring(junit(result(finding(), failure=ODD)).encode())
        self.assertEqual(root.find("testsuite").get("failures"), "1")  # type: ignore[union-attr]
        self.assertEqual(len(root.findall(".//testcase[@name='registered']/failure")), 1)
        self.assertEqual(len(root.findall(".//error")), 1)

    def test_all_well(self):
        root = ElementTree.fromstring(junit(result()).encode())
        self.assertEqual(root.findall(".//failure"), [])
        self.assertEqual(len(root.findall(".//testcase")), 10)


class Sarif(unittest.TestCase):
    def test_places_levels_and_rules(self):
        note = finding("placed.block-nowhere", severity=Severity.NOTE, rung=Rung.PLACED, file="", line=0)
        pages = RulePages(lambda code: "django", "https://handbook.example/{kit}/{rule}")
        run = json.loads(sarif(result(finding(), note), KIT.data.rules, pages))["runs"][0]
        first, second = run["results"]
        self.assertEqual(first["locations"][0]["physicalLocation"]["artifactLocation"]["uri"], "quay/sett%20ings.py")
        self.assertEqual(first["locations"][0]["physicalLocation"]["region"], {"startLine": 3})
        self.assertEqual((second["level"], "locations" in second), ("note", False))
        rules = run["tool"]["driver"]["rules"]
        self.assertEqual(rules[first["ruleIndex"]]["id"], "registered.not-listed")
        self.assertEqual(rules[first["ruleIndex"]]["helpUri"], "https://handbook.example/django/registered.not-listed")
        bare = json.loads(sarif(result(finding()), KIT.data.rules, RulePages(lambda code: "django")))["runs"][0]
        self.assertNotIn("helpUri", bare["tool"]["driver"]["rules"][0])

    def test_a_page_of_a_rule_is_where_the_project_says_else_beside_the_program(self):
        pages = RulePages(lambda code: "django")
        self.assertEqual(pages.published("found.absent"), "")
        page, _, anchor = pages.here("found.absent").removeprefix("file://").partition("#")
        self.assertIn(f'<a id="{anchor}"></a>', Path(page).read_text("utf-8"))
        for wrong in ("javascript:{rule}", "https://handbook.example/"):
            with self.assertRaises(Refused):
                check_address(wrong, "swift-sprout.toml")
        written = io.StringIO()
        shown = Terminal(written, colour=True)
        foreign = "\x1b]8;;https://elsewhere.example/\x1b\\"
        shown.line(shown.link("found.absent", "https://handbook.example/found.absent") + foreign)
        made = "\x1b]8;;https://handbook.example/found.absent\x1b\\found.absent\x1b]8;;\x1b\\"
        self.assertEqual(written.getvalue(), made + foreign.replace("\x1b", "\\x1b") + "\n")
        self.assertEqual(Terminal(io.StringIO(), colour=False).link("a", "https://handbook.example/a"), "a")


class Page(unittest.TestCase):
    def test_texts_are_escaped_and_nothing_is_loaded(self):
        text = page([result(finding(), failure=ODD)])
        self.assertNotIn('<b>&"', text)
        self.assertIn("&lt;b&gt;", text)
        self.assertNotRegex(text, r"<(script|link|img|iframe)\b")
        self.assertIn("prefers-color-scheme: dark", text)
        self.assertEqual(text.count("<article"), 2)

    def test_folded_findings_stand_behind_their_cause(self):
        text = page([result(finding(), finding("routed.not-included", follows_from="registered.not-listed"))])
        self.assertLess(text.index("registered.not-listed</code>, error"), text.index("error folded"))


class Text(unittest.TestCase):
    def write(self, *setups: SetupCheck, colour: bool = False, signs: bool = True, evidence: bool = False) -> str:
        buffer = io.StringIO()
        made = result(finding())
        check_text(
            Terminal(buffer, colour=colour, signs=signs), made._replace(setups=list(setups) or made.setups), evidence
        )
        return buffer.getvalue()

    def test_colour_only_where_it_is_wanted(self):
        self.assertIn("\x1b[", self.write(colour=True).replace(ODD, ""))
        self.assertNotIn("\x1b[3", self.write().replace("\x1b[31m 潮", ""))

    def test_signs_become_letters_where_they_cannot_be_shown(self):
        self.assertTrue(self.write(signs=False, evidence=True).isascii())

    def test_two_setups_stand_side_by_side(self):
        real, sandbox = result(finding()).setups[0], result().setups[0]
        sandbox.setup = "sandbox"
        text = self.write(real, sandbox)
        self.assertRegex(text, r"real .*stops at registered\n +sandbox .*served: /tides/")
        self.assertIn("Findings in the real set-up", text)
        self.assertNotIn("Findings in the sandbox set-up", text)

    def test_document_counts(self):
        document = check_document(result(finding()))
        self.assertEqual(
            document["summary"], {"modules": 1, "served": 1, "findings": 1, "accepted": 0, "seconds": 1.25}
        )

    def test_widths(self):
        self.assertEqual([width(text) for text in ("tide", "潮", "é", "e\u0301", "🌊")], [4, 2, 1, 1, 2])

    def test_no_colour_by_environment(self):
        class Screen(io.StringIO):
            def isatty(self) -> bool:
                return True

        with mock.patch.dict(os.environ, {"TERM": "xterm"}):
            os.environ.pop("NO_COLOR", None)
            self.assertTrue(Terminal(Screen()).colour)
            with mock.patch.dict(os.environ, {"NO_COLOR": "1"}):
                self.assertFalse(Terminal(Screen()).colour)

    def test_paths_are_written_from_home(self):
        with mock.patch.dict(os.environ, {"HOME": "/home/mara"}):
            self.assertEqual(Terminal(io.StringIO()).path("/home/mara/quay"), "~/quay")
            self.assertEqual(Terminal(io.StringIO()).path("/home/marathon"), "/home/marathon")


class Refreshes(unittest.TestCase):
    def kinds(self, *paths: str) -> list[str]:
        return [one.kind for one in refreshes(KIT.data.facts.refresh, paths)]

    def test_each_kind_of_file(self):
        for path, kind in {
            "tides/migrations/0002_x.py": "migrate",
            "tides/tests/test_x.py": "nothing",
            "tides/sprout.toml": "nothing",
            "tides/views.py": "restart",
            "tides/templates/tides/a.html": "reload",
            "tides/static/tides/a.css": "rebuild",
            "tides/locale/de/LC_MESSAGES/django.po": "restart",
            "notes.txt": "nothing",
        }.items():
            self.assertEqual(self.kinds(path), [kind], path)

    def test_the_cheapest_first(self):
        self.assertEqual(
            self.kinds("a/views.py", "a/migrations/0001_x.py", "a/templates/x.html"), ["reload", "migrate", "restart"]
        )


class Versions(unittest.TestCase):
    def test_ranges(self):
        for version, wanted, fits in (
            ("5.2.19", ">=5.2,<5.3", True),
            ("5.3", ">=5.2,<5.3", False),
            ("5.2rc1", ">=5.2", True),
            ("4.2", "==4.2", True),
            ("4.2.7", "==4.2", True),
            ("6.0", "", True),
            ("6.0", "!=6.0", False),
            ("6.0", "<=6.0,>5", True),
        ):
            self.assertEqual(matches(version, wanted), fits, (version, wanted))
