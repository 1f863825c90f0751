"""What is fuzzed: readers of what other people wrote. Each takes bytes and may raise our own errors, and no others."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from functools import cache
from pathlib import Path

from swift_sprout.actions.making import part_from_line
from swift_sprout.core.brief import brief_from_toml
from swift_sprout.core.errors import SproutError
from swift_sprout.core.fields import parse_field, parse_record_line
from swift_sprout.core.made import Made
from swift_sprout.core.masking import masked, secrets_in
from swift_sprout.core.names import name_family
from swift_sprout.core.parts.kinds import KINDS, kind_named
from swift_sprout.core.tomlplaces import line_of
from swift_sprout.edits.carrying import NotCarried, carry
from swift_sprout.reports.terminal import harmless

FOUND = Path(__file__).parent / "found"
SEPARATOR = b"\n%%%%\n"
PYTHON = "import os\n\n\nclass Berth:\n    name = 1\n\n    def free(self):\n        return True\n"
TEXTS = {
    "py": (PYTHON, PYTHON.replace("name = 1", "name = 1\n    depth = 2") + "\n\nclass Buoy:\n    pass\n"),
    "json": ('{"a": [1], "b": {}}', '{"a": [1, 2], "b": {"c": "d"}}'),
    "cfg": ("[tide]\nlist =\n    a\n", "[tide]\nlist =\n    a\n    b\n"),
    "xml": (
        '<tryton><data><record model="a" id="b"/></data></tryton>',
        '<tryton><data><record model="a" id="b"/><record model="a" id="c"/></data></tryton>',
    ),
    "po": ('msgid ""\nmsgstr ""\n', 'msgid ""\nmsgstr ""\n\nmsgid "Tide"\nmsgstr "Tide"\n'),
    "txt": ("one\ntwo\n", "one\nmore\ntwo\n"),
}


def fields(content: bytes) -> None:
    """The grammar of fields and records on the command line."""
    text = content.decode("utf-8", "replace")
    for read in (parse_field, parse_record_line):
        try:
            read(text)
        except SproutError:
            continue


def lines(content: bytes) -> None:
    """Parts as lines, of every kind."""
    text = content.decode("utf-8", "replace")
    for name in KINDS:
        try:
            kind_named(name).data(part_from_line(name, text))
        except SproutError:
            continue


def names(content: bytes) -> None:
    """Name families: whatever comes out can be imported."""
    try:
        family = name_family(content.decode("utf-8", "replace"))
    except SproutError:
        return
    assert family.snake.isidentifier() and family.snake.isascii(), family.snake


def briefs(content: bytes) -> None:
    """Briefs, and the lines of their keys."""
    text = content.decode("utf-8", "replace")
    line_of(text, ("record", 1, "fields"))
    try:
        brief_from_toml(text, "sprout.toml").as_data()
    except SproutError:
        return


def made(content: bytes) -> None:
    """What was generated last."""
    try:
        Made.read(content, "sprout.made").content()
    except SproutError:
        return


def carrying(content: bytes) -> None:
    """Changes carried into files that hold anything: refused, or done so that the rest of the file stays."""
    for ending, (before, after) in TEXTS.items():
        try:
            carry(f"file.{ending}", content, before.encode(), after.encode())
        except NotCarried:
            continue


def telling(content: bytes) -> None:
    """What is written to a terminal steers none, and tells no secret that it knows."""
    text = content.decode("utf-8", "replace")
    shown = harmless(text)
    assert all(letter.isprintable() or letter in "\n\t" or letter.isspace() for letter in shown), shown
    assert not any(letter in "\x1b\x9b\x07\x08\x0c\r" for letter in shown)
    known = secrets_in(text)
    hidden = masked(text, known)
    assert not any(value in hidden for value in known if "•" not in value and value not in "•••")


@cache
def _site() -> Path:
    import shutil

    site = Path(tempfile.mkdtemp(prefix="sprout-fuzz-")) / "site"
    shutil.copytree(Path(__file__).parents[2] / "src/swift_sprout/hosts/kits/django/world", site)
    return site


def module_files(content: bytes) -> None:
    """The files of a module on Django, all of them holding anything, and a check of what they say."""
    from swift_sprout.hosts.contract.kit import HostOptions
    from swift_sprout.hosts.kits.django.kit import KIT

    site = _site()
    names = ("models.py", "apps.py", "urls.py", "views.py", "admin.py", "templates/ferries/x.html", "sprout.toml")
    pieces = content.split(SEPARATOR)
    for number, name in enumerate(names):
        path = site / "ferries" / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(pieces[number % len(pieces)])
    KIT.open(site, HostOptions()).check(["ferries"], live=False)


def php_files(content: bytes) -> None:
    """PHP, read as a syntax tree."""
    from swift_sprout.hosts.kits.wordpress.reading.phpfile import PhpFile

    PhpFile(Path("quay.php"), content).prints()


def data_files(content: bytes) -> None:
    """Manifests and data files of trytond modules."""
    from swift_sprout.hosts.kits.trytond.reading.code import CodeFile
    from swift_sprout.hosts.kits.trytond.reading.datafile import DataFile
    from swift_sprout.hosts.kits.trytond.reading.inifile import IniFile

    path = _site() / "anything"
    path.write_bytes(content)
    IniFile(path), IniFile(path, raw=True), DataFile(path), CodeFile(path)


def archives(content: bytes) -> None:
    """Archives of modules."""
    from swift_sprout.core.archives import checked
    from swift_sprout.disk.archives import entries_of

    path = _site() / "archive.zip"
    path.write_bytes(content)
    try:
        checked(entries_of(path), "archive.zip")
    except SproutError:
        return


TARGETS: dict[str, Callable[[bytes], None]] = {
    one.__name__: one
    for one in (
        fields, lines, names, briefs, made, carrying, telling, module_files, php_files, data_files, archives,
    )
}  # fmt: skip
