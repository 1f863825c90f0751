"""Which pages a check opens again, and what it calls addresses that are written as regular expressions."""

import re
import unittest
from typing import Any

from swift_sprout.hosts.kits.django.forms_shown import forms_shown, with_new_forms
from swift_sprout.hosts.kits.django.probe import sprout_patterns
from swift_sprout.running.loopback import Response

text_for: Any = sprout_patterns.text_for  # it runs in the host's own interpreter, and has no types

SEARCH = "<form action='/search/'><input name=q></form>"
NOTE = "<form method=post><input name=note value='{0}'><input name=csrf value='{0}'></form>"


def page(*parts: str, status: int = 200, kind: str = "text/html; charset=utf-8") -> Response:
    return Response(status, {"content-type": kind}, "".join(parts).encode(), 0.0)


class NewForms(unittest.TestCase):
    def chosen(self, *pages: tuple[str, Response]) -> list[str]:
        return list(with_new_forms((path, path, answer) for path, answer in pages))

    def test_a_form_of_the_layout_is_opened_once(self) -> None:
        self.assertEqual(self.chosen(("/a/", page(SEARCH)), ("/b/", page(SEARCH)), ("/c/", page("none"))), ["/a/"])

    def test_a_form_that_is_sent_to_its_own_page_is_another_one_on_each(self) -> None:
        first, second = page(SEARCH, NOTE.format("x")), page(SEARCH, NOTE.format("y"))
        self.assertEqual(self.chosen(("/a/", first), ("/b/", second)), ["/a/", "/b/"])

    def test_one_field_more_makes_another_form(self) -> None:
        longer = SEARCH.replace("name=q", "name=q><input name=berth")
        self.assertEqual(self.chosen(("/a/", page(SEARCH)), ("/b/", page(longer))), ["/a/", "/b/"])

    def test_a_form_that_is_never_closed_counts(self) -> None:
        self.assertEqual(len(forms_shown("/a/", page("<form action='/x/'><input name=a><form><input name=b>"))), 2)

    def test_only_pages_that_were_served_are_read(self) -> None:
        refused, text = page(SEARCH, status=403), page(SEARCH, kind="text/plain")
        self.assertEqual(self.chosen(("/a/", refused), ("/b/", text)), [])


class Patterns(unittest.TestCase):
    def test_a_text_is_made_that_the_pattern_takes(self) -> None:
        patterns = (
            r"^year/(\d{4})/$",
            r"^(?P<slug>[\w-]+)/edit/$",
            r"^(?:berths|ferries)?/all\.html$",
            r"^chart/(?P<id>[0-9a-f]{8})/$",
            r"^list/?$",
            r"^$",
            r"^.*$",
            r"^a+b*c{2,3}$",
            r"^(?!api/|static/).*$",
        )
        for pattern in patterns:
            with self.subTest(pattern):
                made = text_for(pattern, {})
                self.assertIsNotNone(made)
                self.assertIsNotNone(re.search(pattern, made))

    def test_groups_get_the_values_that_are_known(self) -> None:
        self.assertEqual(
            text_for(r"^berths/(?P<pk>\d+)/(?P<day>[a-z]+)/$", {"pk": 7, "day": "monday"}), "berths/7/monday/"
        )

    def test_a_value_that_does_not_fit_makes_none(self) -> None:
        self.assertIsNone(text_for(r"^berths/(?P<pk>\d+)/$", {"pk": "north"}))

    def test_what_cannot_be_made_up_is_said(self) -> None:
        self.assertIsNone(text_for(r"^(?=x)y$", {}))
        self.assertIsNone(text_for(r"^(?!a).$", {}))
        self.assertIsNone(text_for(r"^[^a]$", {}))
