"""Starting quickly: what is seldom used waits, and is there as soon as somebody asks for it."""

import subprocess
import sys
import unittest

from swift_sprout.__main__ import SELDOM_USED

CODE = """
import sys
from swift_sprout.__main__ import SELDOM_USED, wait_with_seldom_used
for name in SELDOM_USED:
    sys.modules.pop(name, None)
wait_with_seldom_used()
"""


def python(code: str) -> str:
    """Run code with every module that may wait waiting; returns what it prints."""
    ran = subprocess.run([sys.executable, "-c", CODE + code], capture_output=True, text=True, timeout=60)
    assert ran.returncode == 0, ran.stderr
    return ran.stdout.strip()


class Waiting(unittest.TestCase):
    def test_importing_loads_nothing(self):
        for name in SELDOM_USED:
            code = f"import {name}\nimport {name}\nprint(type(sys.modules[{name!r}]).__name__)"
            for taken in SELDOM_USED[name]:
                code = f"from {name} import {taken}\n{code}"
            self.assertEqual(python(code), "Later", name)

    def test_asking_loads_the_real_one_for_good(self):
        for name, asked in (
            ("ipaddress", "ip_address('::1').version"),
            ("platform", "python_version()[:2]"),
            ("gettext", "NullTranslations().gettext('tide')"),
            ("html", "unescape('&eacute;bb')"),
            ("html", "escape('<ebb>')"),
            ("urllib.parse", "urlsplit('sqlite:///quay').scheme"),
            ("urllib.parse", "quote_from_bytes(b'high tide')"),
        ):
            code = f"import {name}\nprint({name}.{asked})\nprint(type(sys.modules[{name!r}]).__name__)\n"
            shown = python(code + f"print({name}.{asked})").split("\n")
            self.assertEqual(shown[1], "module", name)
            self.assertEqual(shown[0], shown[2], name)

    def test_what_lies_in_a_package_that_waits_can_be_imported(self):
        code = "import html.parser\nprint(html.parser.HTMLParser.__name__, html.unescape('&lt;'))"
        self.assertEqual(python(code), "HTMLParser <")
        code = "from html.entities import name2codepoint\nimport html\nprint(name2codepoint['lt'], html.escape('<'))"
        self.assertEqual(python(code), "60 &lt;")

    def test_what_is_taken_at_once_works_like_the_real_one(self):
        code = (
            "from gettext import gettext, ngettext\nprint(gettext('a'), ngettext('a', 'b', 1), ngettext('a', 'b', 2))"
        )
        self.assertEqual(python(code), "a a b")
