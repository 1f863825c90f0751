"""Writes the tables of keys in docs/kits.md and docs/kits-python.md from the sections that kit files are read into.

The table of hosts in README.md, and a page for each kit in docs/hosts, come from the kit files themselves.
"""

from __future__ import annotations

import re
import types
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any, Literal, Union, get_args, get_origin

from swift_sprout.core.refresh import RefreshRule
from swift_sprout.core.sections import fields_of
from swift_sprout.hosts.contract.kitdata import KitData
from swift_sprout.hosts.contract.kitfacts import KitFacts
from swift_sprout.hosts.kits.django.facts import DjangoFacts
from swift_sprout.hosts.python.interpreter import PythonFacts
from swift_sprout.hosts.registry import kits

DOCS = Path(__file__).parent.parent / "docs"
README, HOSTS = DOCS.parent / "README.md", DOCS / "hosts"
HOSTS_BEGIN, HOSTS_END = "<!-- hosts: made by tools/kits_page.py -->", "<!-- end of hosts -->"
BEGINS, ENDS = "<!-- keys of {}: made by tools/kits_page.py -->", "<!-- end of keys -->"
SECTIONS: dict[str, dict[str, type]] = {
    "kits.md": {"": KitFacts},
    "kits-python.md": {"python": PythonFacts, "django": DjangoFacts},
}
_WORDS = {str: "text", int: "number", bool: "true or false"}


def table(section: type, key: str = "") -> list[str]:
    """Return the lines of a section's table: key, type and meaning; tables within it follow their key."""
    return ["| key | type | what |", "| --- | --- | --- |", *_rows(section, key)]


def _rows(section: Any, key: str) -> Iterator[str]:
    meanings = dict(_meanings(section))
    assert section is RefreshRule or set(meanings) == set(fields_of(section)), section
    for name, wanted in fields_of(section).items():
        inner, many = _inner(wanted)
        below = f"{key}.{name}" if key else name
        needed = "" if name in section._field_defaults else "needed"
        said = ", ".join(filter(None, (_spelled(wanted), needed)))
        yield f"| `{_bracketed(below, many) if _is_section(inner) else below}` | {said} | {meanings[name]} |"
        if _is_section(inner):
            yield from _rows(inner, below + {"table": '."…"', "list": "[]", "": ""}[many])


def _inner(wanted: Any) -> tuple[Any, str]:
    origin, inner = get_origin(wanted), get_args(wanted)
    if origin is Mapping:
        return inner[1], "table"
    if origin is tuple:
        return inner[0], "list"
    if origin in (Union, types.UnionType):
        return inner[0], ""
    return wanted, ""


def _is_section(kind: Any) -> bool:
    return isinstance(kind, type) and issubclass(kind, tuple) and hasattr(kind, "_fields")


def _bracketed(key: str, many: str) -> str:
    return f"[[{key}]]" if many == "list" else f'[{key}."…"]' if many == "table" else f"[{key}]"


def _spelled(wanted: Any) -> str:
    origin = get_origin(wanted)
    if origin is Literal:
        return ", ".join(f"`{one}`" for one in get_args(wanted))
    inner, many = _inner(wanted)
    if _is_section(inner):
        return {"list": "tables", "table": "table of tables", "": "table"}[many]
    plain = _WORDS.get(inner, "") or _spelled(inner)
    return {"list": f"{plain}s", "table": f"table of {plain.removesuffix('s')}s", "": plain}[many]


def _meanings(section: type) -> Iterator[tuple[str, str]]:
    """Yield each key of a section with its meaning, as the section's own docstring says it."""
    text = section.__doc__ or ""
    for entry in re.finditer(r"^ {4}(\w+) +-- (.+(?:\n {8,}\S.*)*)", text, re.MULTILINE):
        yield entry[1], " ".join(entry[2].replace("``", "`").split())


def page(name: str) -> str:
    """Return a page with its tables as the sections say them now."""
    text = (DOCS / name).read_text("utf-8")
    for key, section in SECTIONS[name].items():
        begins = BEGINS.format(key or "every kit")
        before, _, rest = text.partition(begins + "\n")
        _, _, after = rest.partition(ENDS)
        text = "\n".join([before + begins, *table(section, key), ENDS]) + after
    return text


def readme() -> str:
    """Return the README with its table of hosts as the kits say it now."""
    before, _, rest = README.read_text("utf-8").partition(HOSTS_BEGIN + "\n")
    lines = ["| Kit | Sort | Versions checked | Causes known |", "| --- | --- | --- | --- |"]
    for name, kit in kits().items():
        causes = f"[{len(kit.data.rules)}](docs/rules-{name}.md)"
        lines.append(f"| [`{name}`](docs/hosts/{name}.md) | {kit.data.facts.sort} | {_versions(kit.data)} | {causes} |")
    return "\n".join([before + HOSTS_BEGIN, *lines, HOSTS_END]) + rest.partition(HOSTS_END)[2]


def _versions(data: KitData) -> str:
    below = f" on {data.base.title} {' and '.join(data.base.checked)}" if data.base is not None else ""
    return f"{data.facts.title} {' and '.join(data.facts.checked)}{below}"


def host_page(data: KitData) -> str:
    """Return the page of a kit: versions, what commands do there, what modules carry, limits."""
    facts = data.facts
    name = facts.id
    base = (
        f"It builds on the kit [{data.base.title}]({data.base.id}.md), and has all that it has.\n\n"
        if data.base
        else ""
    )
    parts = "".join(f"- **{part}**: {what}\n" for part, what in data.parts.items())
    refused = "".join(f"- **{part}**: {what}\n" for part, what in facts.instead.items())
    limits = "".join(f"- {one.strip()[0].upper()}{one.strip()[1:]}\n" for one in facts.limits.split(";"))
    cannot = f"\nWhat it has no place for, and the nearest thing:\n\n{refused}" if refused else ""
    return (
        f"<!-- made by tools/kits_page.py from the kit's kit.toml -->\n\n# {facts.title}\n\n"
        f"{facts.sort[0].upper()}{facts.sort[1:]}. Checked on {_versions(data)}; works for `{facts.works}`. "
        f"Needs {', '.join(facts.needs)}.\n\n{base}"
        f"See it: `make demo HOST={name}`. [The causes it knows](../rules-{name}.md).\n\n"
        + "\n\n".join(facts.about)
        + f"\n\n## What a module can carry\n\n{parts}{cannot}\n## Limits\n\n{limits}"
    )


if __name__ == "__main__":
    README.write_text(readme(), "utf-8")
    for known_kit in kits().values():
        (HOSTS / f"{known_kit.data.id}.md").write_text(host_page(known_kit.data), "utf-8")
    for known in SECTIONS:
        (DOCS / known).write_text(page(known), "utf-8")
