"""Forms as a browser reads them: which are sent in which way, where to, and what of."""

import unittest
from typing import Any

from swift_sprout.hosts.python.inside import sprout_filling

forms_in: Any = sprout_filling.forms_in  # it runs in the host's own interpreter, and has no types

PAGE = """<!doctype html>
<form><input name="q"><select name="kind"><option value="">All</option><option value="basin">Basin</option></select></form>
<form method="GET" action="/tides/"><input type="number" name="page" min="3"><button name="go">Go</button></form>
<form method="post" action="/berths/"><input type="hidden" name="csrf" value="x"><textarea name="note"></textarea></form>
<form method="post" data-send="script"><input name="vessel"></form>
<form method="dialog"><input name="never"></form>
"""


class Forms(unittest.TestCase):
    def test_what_asks_for_another_page_is_told_apart_from_what_changes_something(self) -> None:
        searching, changing = forms_in(PAGE, "get"), forms_in(PAGE)
        self.assertEqual([one["action"] for one in searching], ["", "/tides/"])
        self.assertEqual([one["action"] for one in changing], ["/berths/", ""])
        self.assertEqual([one["script"] for one in changing], [False, True])

    def test_each_field_gets_what_somebody_could_write(self) -> None:
        first, second = forms_in(PAGE, "get")
        self.assertEqual(first["data"], {"q": ["sample"], "kind": ["basin"]})
        self.assertEqual(second["data"], {"page": ["3"]})
        self.assertEqual(forms_in(PAGE)[0]["data"], {"csrf": ["x"], "note": ["sample"]})
