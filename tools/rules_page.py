"""Writes docs/rules-KIT.md from the rules of each kit, so that page and program say the same."""

from __future__ import annotations

from pathlib import Path

from swift_sprout.core.findings import Rule
from swift_sprout.core.ladder import RUNGS
from swift_sprout.hosts.contract.kitdata import KitData
from swift_sprout.hosts.registry import kits

DOCS = Path(__file__).parent.parent / "docs"


def page(data: KitData) -> str:
    """Return the page of a kit: the rules of each rung, lowest first."""
    lines = [
        f"# Causes that the {data.title} kit knows",
        "",
        f"Made from `hosts/kits/{data.id}/rules.toml` by `tools/rules_page.py`; `swift-sprout show rules` prints it.",
        "Words in braces are filled in at the place. *mends itself* marks what `check --mend` may apply.",
    ]
    below = {rule.code for rule in data.base.rules} if data.base is not None else set()
    if data.base is not None:
        lines.append(f"Beside these it knows all those of {data.base.title} ([their page](rules-{data.base.id}.md)).")
    for rung in RUNGS:
        own = (rule for rule in data.rules if rule.rung is rung and rule.code not in below)
        rules = sorted(own, key=lambda rule: rule.code)
        if not rules:
            continue
        lines += ["", f"## {rung}", "", data.facts.rungs[rung] + ".", ""]
        for rule in rules:
            marks = [str(rule.severity)] + ([_mends_itself(rule)] if rule.mendable else [])
            anchor = f'<a id="{rule.code}"></a>'
            lines.append(f"- {anchor}**{rule.code}** ({', '.join(marks)}): {rule.cause}.")
            lines.append(f"  Effect: {rule.effect}. Remedy: {rule.mend}.")
    return "\n".join(lines) + "\n"


def _mends_itself(rule: Rule) -> str:
    return "mends itself when its module is named" if rule.mended_when_named else "mends itself"


if __name__ == "__main__":
    for known in kits().values():
        (DOCS / f"rules-{known.data.id}.md").write_text(page(known.data), "utf-8")
