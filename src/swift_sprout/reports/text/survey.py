"""A survey as text."""

from __future__ import annotations

from ...core.surveys import HostFacts
from ..terminal import Terminal


def survey(out: Terminal, facts: HostFacts) -> None:
    """Write what is known of a host."""
    rows = [
        ("host", f"{facts.title} {facts.version}".strip() + f"  {out.path(facts.root)}"),
        ("runs by", f"{out.path(facts.runtime)} ({facts.runtime_origin})" if facts.runtime else "nothing found"),
        ("settings", facts.settings),
        ("addresses", facts.addresses),
        ("database", facts.database),
    ]
    for name, value in rows:
        if value:
            out.line(f"{out.style(f'{name:<10}', 'head')} {value}")
    for index, place in enumerate(facts.places):
        name = "modules in" if index == 0 else ""
        folder = "." if place.folder == "." else place.folder + "/"
        out.line(f"{out.style(f'{name:<10}', 'head')} {folder} ({place.why})")
    out.line()
    if facts.modules:
        marks = {True: "yes", False: "no", None: "not asked"}
        out.grid(
            ["module", "version", "found", "registered", "enabled", "place", "title"],
            [
                [
                    module.name,
                    module.version or "–",
                    marks[module.found],
                    marks[module.registered],
                    marks[module.enabled],
                    module.folder,
                    module.title or "–",
                ]
                for module in facts.modules
            ],
            spare=("place", "version"),
        )
    else:
        out.line("No module lies in the host's folders yet.")
    for note in facts.notes:
        out.wrapped(note, "  ", out.style("note:", "warn") + " ")
    if facts.missing:
        out.line()
        out.line(out.style("Missing to work here:", "bad"))
        for missing in facts.missing:
            out.wrapped(missing.what, "    ", "  ✗ ")
            out.wrapped(missing.remedy, "    ")
