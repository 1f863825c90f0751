"""Names that Python of a host asks for and that are not there: told where they are evaluated, and nowhere else."""

import ast
from pathlib import Path

from swift_sprout.core.syntax import nodes_below
from swift_sprout.hosts.python.attributes import absent_attributes
from swift_sprout.hosts.python.undefined import undefined_names

from ..support import Case


class Undefined(Case):
    def names(self, text: str) -> list[tuple[int, str]]:
        path = self.write("site/quay.py", text)
        found = undefined_names(self.folder / "site")
        return [(one.line, one.name) for one in found.get(str(path), ())]

    def test_a_name_is_told_once_where_it_is_used_first(self):
        self.assertEqual(
            self.names("def tide():\n    return depht\n\n\ndef ebb():\n    return depht\n"), [(2, "depht")]
        )

    def test_the_nearest_is_named(self):
        path = self.write("site/quay.py", "depth = 3\n\n\ndef tide():\n    return depht\n")
        self.assertEqual(undefined_names(self.folder / "site")[str(path)][0].near, " (did you mean depth?)")

    def test_whether_it_is_evaluated_as_the_file_is_loaded(self):
        for text, late in (
            ("print(depht)\n", False),
            ("class Tide:\n    depth = depht\n", False),
            ("def tide(depth=depht): ...\n", False),
            ("@depht\ndef tide(): ...\n", False),
            ("def tide():\n    return depht\n", True),
            ("class Tide:\n    def depth(self):\n        return depht\n", True),
            ("tide = lambda: depht\n", True),
        ):
            with self.subTest(text):
                path = self.write("site/quay.py", text)
                self.assertEqual([one.late for one in undefined_names(self.folder / "site")[str(path)]], [late])

    def test_what_is_no_fault_is_not_told(self):
        for text in (
            "from tides import *\n\n\ndef tide():\n    return depth\n",
            'def tide(berth: "Berth") -> "Tide":\n    return berth\n',
            "import typing\n\nif typing.TYPE_CHECKING:\n    from tides import Tide\n\n\ndef tide(one: Tide): ...\n",
            "def tide():\n    return _('Tide')\n",
            "try:\n    words = unicode\nexcept NameError:\n    words = str\n",
            "import sys\n\nif sys.version_info < (3,):\n    text = unicode\n",
            "def tide():\n    return depth  # noqa: F821\n",
            "def tide():\n    global depth\n    depth = 3\n\n\ndef ebb():\n    return depth\n",
            "def broken(:\n",
            "print(__file__, __name__)\n",
        ):
            with self.subTest(text):
                self.assertEqual(self.names(text), [])

    def test_an_environment_is_not_read(self):
        self.write("site/.venv/pyvenv.cfg", "")
        self.write("site/.venv/lib/tides.py", "print(depht)\n")
        self.assertEqual(undefined_names(self.folder / "site"), {})


class Attributes(Case):
    files = {
        "quay/__init__.py": "",
        "quay/tides.py": "HIGH = 3\n\n\ndef today():\n    return HIGH\n",
        "quay/open.py": "def __getattr__(name):\n    return name\n",
        "quay/parts/__init__.py": "from .berths import free\n",
        "quay/parts/berths.py": "def free():\n    return []\n",
    }

    def absent(self, text: str, package: str = "quay") -> list[tuple[int, str, str]]:
        for path, content in self.files.items():
            self.write(f"site/{path}", content)
        site = self.folder / "site"

        def file_of(dotted: str) -> Path | None:
            base = site.joinpath(*dotted.split("."))
            return next((one for one in (base / "__init__.py", base.with_suffix(".py")) if one.is_file()), None)

        found = absent_attributes(
            nodes_below(ast.parse(text)), package, file_of, lambda path: ast.parse(path.read_text())
        )
        return [(one.line, f"{one.module}.{one.name}", one.near) for one in found]

    def test_what_a_module_of_the_host_has_not(self):
        for text in (
            "from . import tides\n\n\nprint(tides.tody())\n",
            "from quay import tides\n\n\nprint(tides.tody())\n",
            "import quay.tides as tides\n\n\nprint(tides.tody())\n",
            "def late():\n    from . import tides\n    return tides.tody()\n",
        ):
            with self.subTest(text):
                self.assertEqual([one[1:] for one in self.absent(text)], [("tides.tody", " (did you mean today?)")])

    def test_what_is_no_fault_is_not_told(self):
        for text in (
            "from . import tides\n\nprint(tides.today(), tides.HIGH, tides.__name__)\n",
            "from . import open\n\nprint(open.anything)\n",
            "from . import parts\n\nprint(parts.free, parts.berths)\n",
            "from . import tides\n\ntides.cache = {}\nprint(tides.cache)\n",
            "from . import tides\n\n\ndef show(tides):\n    return tides.tomorrow\n",
            "from . import tides\n\ntides = tides.today()\nprint(tides.tomorrow)\n",
            "import os\n\nprint(os.nothing_of_that_name)\n",
            "from quay.parts import berths\n\nprint(berths.free)\n",
        ):
            with self.subTest(text):
                self.assertEqual(self.absent(text), [])
