"""Code in every text of a brief, on every host: the files parse, and what was text stays text."""

from __future__ import annotations

import ast
import html.parser
import json
import re
import shutil
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from xml.parsers import expat

import tomli

from swift_sprout.core.brief import Brief, brief_from_data
from swift_sprout.core.brieftext import brief_text
from swift_sprout.core.errors import SproutError
from swift_sprout.core.modulefolders import ModuleFolder
from swift_sprout.core.parts.kinds import KINDS
from swift_sprout.hosts.contract.host import Host
from swift_sprout.hosts.contract.kit import HostOptions
from swift_sprout.hosts.registry import kit_named

from ..support import Case, brief_of, world_of

EVIL = "evil_quay"
PAYLOADS = (
    f"'\"); {EVIL}(); x = ('\" \\' \\\" {EVIL}() #",
    f'"""+{EVIL}()+"""',
    f"{{% load {EVIL} %}}{{{{ {EVIL} }}}}{{# {EVIL} #}}",
    f"</script><script>{EVIL}()</script><img src=x onerror={EVIL}()>",
    f"]]>--><{EVIL}/>&{EVIL};",
    f"?><?php {EVIL}(); ?>${{{EVIL}()}}`{EVIL}`",
    f"\\'; {EVIL}(); //",
    f"%({EVIL})s ${{{EVIL}}} «{EVIL}» {{{EVIL}}}",
)
BRIEFS = {"oscar": "chandlery_offers", "wagtail": "tide_pages"}
NAMES = ("name", "internal")  # of these, names in code are made, from their letters and digits
KITS = ("django", "trytond", "flask", "wordpress", "wagtail", "oscar")


def leaves(data: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """Yield where the texts of a brief stand."""
    if isinstance(data, str):
        yield path
    elif isinstance(data, dict):
        for key, value in data.items():
            yield from leaves(value, (*path, key))
    elif isinstance(data, list):
        for number, value in enumerate(data):
            yield from leaves(value, (*path, number))


def with_text(data: Any, path: tuple[Any, ...], text: str) -> Any:
    """Return a brief with a text in the place of another; of a field, the text is its help."""
    copy = json.loads(json.dumps(data))
    inner = copy
    for step in path[:-1]:
        inner = inner[step]
    if len(path) > 1 and path[-2] == "fields":
        quoted = text.replace('"', '""')
        inner[path[-1]] += f', help "{quoted}"'
    else:
        inner[path[-1]] = text
    return copy


class Tags(html.parser.HTMLParser):
    """The elements and attributes of a page."""

    def __init__(self) -> None:
        super().__init__()
        self.found: list[str] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.found += [tag, *(name for name, _ in attrs)]


class Injection(Case):
    def host(self, kit: str) -> Host:
        site = self.folder / kit
        shutil.copytree(world_of(kit), site, ignore=shutil.ignore_patterns("__pycache__"))
        return kit_named(kit).open(site, HostOptions())

    def test_every_text_of_every_part_on_every_host(self):
        for kit in KITS:
            with self.subTest(kit):
                host = self.host(kit)
                names = dict.fromkeys(["berth_register", BRIEFS.get(kit, "tide_board")])
                count = 0
                for name in names:
                    data = tomli.loads(brief_of(kit, name).read_text("utf-8"))
                    data = {key: value for key, value in data.items() if key not in KINDS or key in self.carried(kit)}
                    for number, path in enumerate(leaves(data)):
                        count += self.tried(host, with_text(data, path, PAYLOADS[number % len(PAYLOADS)]), path)
                self.assertGreater(count, 10, "hardly any brief was taken")

    @staticmethod
    def carried(kit: str) -> set[str]:
        return set(kit_named(kit).data.parts)

    def tried(self, host: Host, data: dict[str, Any], path: tuple[Any, ...]) -> bool:
        """Make the files of a brief; False where it is refused."""
        try:
            brief = brief_from_data(data, "", "sprout.toml")
            files = {one.path: one.after for one in host.compose(brief, ModuleFolder(".", "", "")).changes}
        except SproutError:
            return False
        for name, content in files.items():
            if content is not None and not name.endswith((".mo", ".made")):
                self.harmless(name, content.decode("utf-8"), brief, path)
        return True

    def harmless(self, name: str, text: str, brief: Brief, path: tuple[Any, ...]) -> None:
        ending = name.rpartition(".")[2]
        where = f"{name} with code at {path}"
        if ending == "py":
            for node in ast.walk(ast.parse(text)) if path[-1] not in NAMES else ():
                if isinstance(node, ast.Name | ast.Attribute):
                    self.assertNotEqual(node.id if isinstance(node, ast.Name) else node.attr, EVIL, where)
        elif ending == "php":
            from swift_sprout.hosts.kits.wordpress.reading.phpfile import PhpFile
            from swift_sprout.hosts.kits.wordpress.reading.syntax import parsed, text_of, walk

            self.assertEqual(PhpFile(Path(name), text.encode()).broken_line, 0, f"{where}\n{text}")
            for part in walk(parsed(text.encode()).root_node) if path[-1] not in NAMES else ():
                if part.type in ("name", "variable_name"):
                    self.assertNotEqual(text_of(part), EVIL, where)
        elif ending in ("html", "svg"):
            tags = Tags()
            tags.feed(re.sub(r"\{%.*?%\}|\{\{.*?\}\}", "", text))
            self.assertFalse({"onerror", EVIL} & set(tags.found), where)
            self.assertNotIn("<script>" + EVIL, text, where)
            for tag in re.findall(r"\{%\s*(\w+)[^%]*%\}|\{\{\s*(\w+)[^}]*\}\}", self.outside_quotes(text)):
                self.assertNotIn(EVIL, tag, where)
        elif ending == "xml":
            expat.ParserCreate().Parse(text.encode(), True)
            self.assertNotIn(f"<{EVIL}", text, where)
        elif ending == "json":
            json.loads(text)
        elif ending == "toml":
            self.assertEqual(brief_text(brief_from_data(tomli.loads(text), text, name)), brief_text(brief), where)

    @staticmethod
    def outside_quotes(text: str) -> str:
        """Return a template without the quoted arguments of its tags, in which braces mean nothing."""
        return re.sub(r'"(?:[^"\\]|\\.)*"', '""', text)
