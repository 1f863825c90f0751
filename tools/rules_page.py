"""Writes docs/rules-django.md from the rules of the kit, so that page and program say the same."""

from __future__ import annotations

from pathlib import Path

from swift_sprout.core.ladder import RUNGS
from swift_sprout.hosts.django.kit import KIT

PAGE = Path(__file__).parent.parent / "docs/rules-django.md"


def page() -> str:
    """Return the page: the rules of each rung, lowest first."""
    lines = [
        "# Causes that the Django kit knows",
        "",
        "Made from `hosts/django/rules.toml` by `tools/rules_page.py`; `swift-sprout show rules` prints the same.",
        "Words in braces are filled in at the place. *mends itself* marks what `check --mend` may apply.",
    ]
    for rung in RUNGS:
        rules = sorted((rule for rule in KIT.data.rules if rule.rung is rung), key=lambda rule: rule.code)
        if not rules:
            continue
        lines += ["", f"## {rung}", "", KIT.data.raw["rungs"][rung] + ".", ""]
        for rule in rules:
            marks = [str(rule.severity)] + (["mends itself"] if rule.mendable else [])
            lines.append(f"- **{rule.code}** ({', '.join(marks)}): {rule.cause}.")
            lines.append(f"  Effect: {rule.effect}. To mend it: {rule.mend}.")
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    PAGE.write_text(page(), "utf-8")
