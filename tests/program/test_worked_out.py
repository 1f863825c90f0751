"""A healthy host stays healthy where its code works a value out instead of spelling it: reading then says nothing.

Each value of some files of a healthy host is wrapped, one at a time, in a function that returns it, so that a reader of
files cannot tell it any more, while the host is the same as before.
"""

from __future__ import annotations

import ast
import re
import shutil
import unittest
from collections.abc import Iterator
from pathlib import Path

from swift_sprout.actions.checking import check
from swift_sprout.actions.hosting import HostChoice, open_host
from swift_sprout.core.findings import Severity
from trials.hosts import built_healthy, copy_host
from trials.places import RUNTIMES

from ..support import Case

FILES = (
    "settings.py", "urls.py", "models.py", "apps.py", "groups.py", "menu.py", "views.py", "shipping.py",
    "pilot.py", "roster.py", "sailing.py", "notice.py", "booking.py", "jobs.py", "routes.py",
)  # fmt: skip
EVERY = 8  # values one is wrapped: enough to see whether a file is judged by what cannot be read
HELPER = "\n\ndef _same(value):\n    return value\n\n\n"


def values_in(tree: ast.Module) -> Iterator[ast.expr]:
    """Yield what is assigned, listed and given to calls in a file."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Assign | ast.AugAssign):
            yield node.value
        elif isinstance(node, ast.Dict):
            yield from node.values
        elif isinstance(node, ast.List):
            yield from node.elts
        elif isinstance(node, ast.Call):
            yield from node.args


def wrapped(text: str) -> Iterator[tuple[int, str]]:
    """Yield the text of a file with one of its values wrapped, for each in turn, with its line."""
    tree = ast.parse(text)
    lines = text.encode().splitlines(keepends=True)
    starts = [0]
    for line in lines:
        starts.append(starts[-1] + len(line))
    after = 0
    for statement in tree.body:
        if not isinstance(statement, ast.Import | ast.ImportFrom | ast.Expr):
            break
        after = statement.end_lineno or 0
    whole = b"".join(lines)
    for node in values_in(tree):
        begin = starts[node.lineno - 1] + node.col_offset
        end = starts[(node.end_lineno or 1) - 1] + (node.end_col_offset or 0)
        plain = not isinstance(node, ast.Starred | ast.GeneratorExp | ast.Tuple)
        if plain and begin >= starts[after]:
            parts = (whole[: starts[after]], HELPER.encode(), whole[starts[after] : begin], b"_same(")
            yield node.lineno, b"".join([*parts, whole[begin:end], b")", whole[end:]]).decode()


class WorkedOut(Case):
    def judge(self, kit: str) -> None:
        site = self.folder / "site"
        shutil.rmtree(site, ignore_errors=True)
        copy_host(kit, built_healthy(kit), site)
        paths = [path for path in sorted(site.rglob("*.py")) if path.name in FILES and path.stat().st_size]
        number = 0
        for path in paths:
            text = path.read_text("utf-8")
            for line, changed in wrapped(text):
                number += 1
                if number % EVERY:
                    continue
                with self.subTest(file=str(path.relative_to(site)), line=line):
                    path.write_text(changed, "utf-8")
                    self.assertEqual(self.told(kit, site), [])
            path.write_text(text, "utf-8")
        self.assertGreater(number, 10)

    def told(self, kit: str, site: Path, static: bool = True) -> list[str]:
        opened = open_host(HostChoice(str(site), kit, str(RUNTIMES[kit])))
        findings = check(opened, [], static=static).findings
        return [f"{one.code} {one.cause}" for one in findings if one.severity is not Severity.NOTE]

    def test_django(self) -> None:
        self.judge("django")

    def test_wagtail(self) -> None:
        self.judge("wagtail")

    def test_oscar(self) -> None:
        self.judge("oscar")

    def test_flask(self) -> None:
        self.judge("flask")

    def test_trytond(self) -> None:
        self.judge("trytond")

    def test_the_names_of_all_classes_are_worked_out(self) -> None:
        """Of trytond, where names hold modules together: the files are not sure, the running host is."""
        site = self.folder / "site"
        copy_host("trytond", built_healthy("trytond"), site)
        for path in sorted(site.glob("modules/*/*.py")):
            text = path.read_text("utf-8")
            worked_out = re.sub(r"(?m)^    __name__ = (.+)$", r"    __name__ = _same(\1)", text)
            path.write_text(HELPER.lstrip() + worked_out, "utf-8")
        for static in (True, False):
            self.assertEqual(self.told("trytond", site, static), [])

    def test_the_wrapped_host_is_the_same(self) -> None:
        """What is wrapped in each file at once is served as before."""
        site = self.folder / "site"
        copy_host("django", built_healthy("django"), site)
        for path in sorted(site.rglob("urls.py")):
            text = path.read_text("utf-8")
            path.write_text(next(changed for _, changed in wrapped(text)), "utf-8")
        opened = open_host(HostChoice(str(site), "django", str(RUNTIMES["django"])))
        result = check(opened, [], static=False)
        self.assertEqual([one.code for one in result.findings if one.severity is not Severity.NOTE], [])


if __name__ == "__main__":
    unittest.main()
