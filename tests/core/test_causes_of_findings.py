"""Which findings only follow from another one: of the host, or of any module, where their rules say so."""

import unittest

from swift_sprout.core.findings import Finding, Severity, explains
from swift_sprout.core.ladder import Rung, build_ladder
from swift_sprout.core.results import ModuleCheck
from swift_sprout.hosts.kits.django.examining.across import explained, follow_host


def finding(code: str, module: str = "", follows: tuple[str, ...] = (), **more: object) -> Finding:
    values = tuple((name, str(value)) for name, value in more.items())
    rung = next(one for one in Rung if code.startswith(one.value))
    told = Finding(code, rung, Severity.ERROR, module, "", 0, f"{code} is met", "it fails", "mend it")
    return told._replace(follows=follows, values=values)


def check(module: str, *findings: Finding) -> ModuleCheck:
    return ModuleCheck(module, module.title(), build_ladder({}, {}), list(findings), [], [])


MIDDLEWARE = finding("compatible.middleware-absent")
PAGE = finding("served.error", "tides", ("compatible.middleware-absent", "enabled.*", "placed.block-unknown@line"))


class Explains(unittest.TestCase):
    def test_a_code_that_the_rule_names_explains_whosever_it_is(self) -> None:
        self.assertTrue(explains(MIDDLEWARE, PAGE))
        self.assertTrue(explains(MIDDLEWARE._replace(module="berths"), PAGE))

    def test_a_whole_rung_is_meant_for_one_module_only(self) -> None:
        self.assertFalse(explains(finding("enabled.check-failed", "berths"), PAGE))

    def test_a_code_at_the_line_must_be_at_the_line(self) -> None:
        block = finding("placed.block-unknown", "berths")._replace(file="a.html", line=3)
        self.assertFalse(explains(block, PAGE))
        self.assertTrue(explains(block, PAGE._replace(file="a.html", line=3)))

    def test_nothing_explains_itself(self) -> None:
        one = finding("served.error", "tides", ("served.error",))
        self.assertFalse(explains(one, one))


class OfTheHost(unittest.TestCase):
    def test_what_modules_say_of_it_follows(self) -> None:
        modules = [
            check("tides", PAGE),
            check("berths", PAGE._replace(module="berths"), finding("found.absent", "berths")),
        ]
        follow_host(modules, [MIDDLEWARE])
        followed = [(one.code, bool(one.follows_from)) for module in modules for one in module.findings]
        self.assertEqual(followed, [("served.error", True), ("served.error", True), ("found.absent", False)])

    def test_a_note_or_what_follows_itself_causes_nothing(self) -> None:
        for cause in (
            MIDDLEWARE._replace(severity=Severity.NOTE),
            MIDDLEWARE._replace(follows_from="enabled.site-stops"),
        ):
            modules = [check("tides", PAGE)]
            follow_host(modules, [cause])
            self.assertEqual(modules[0].findings[0].follows_from, "")

    def test_a_page_of_the_host_follows_from_what_a_module_breaks(self) -> None:
        page = finding("served.host-page", "", ("served.buying-fails",), error="TypeError: none")
        (told,) = explained([page], [check("prices", finding("served.buying-fails", "prices"))], [])
        self.assertIn("prices", told.follows_from)
        (told,) = explained([page], [check("prices", finding("served.error", "prices"))], [])
        self.assertEqual(told.follows_from, "")
