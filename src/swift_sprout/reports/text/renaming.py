"""The plan of a renaming as text: what it changes by kind, what is left to the person, what stands afterwards."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

from ..terminal import Terminal

if TYPE_CHECKING:
    from ...core.renaming.occurrences import Occurrence
    from ...core.renaming.plan import RenamePlan

MANY = 12


def plan(out: Terminal, found: RenamePlan, ahead: bool, verbose: bool) -> None:
    """Write what changes, by kind; with ``verbose`` each place. ``ahead`` tells as well what will keep the old name."""
    if found.moves:
        moved = len(found.moves)
        first, target = next(iter(found.moves.items()))
        such = "file moves:" if moved == 1 else "files move, such as"
        out.wrapped(f"{moved} {such} {first} → {target}", "    ", "  ")
        for path, to in found.moves.items() if verbose else ():
            out.line(f"    {path} → {to}")
    rows = [[one.kind, str(one.times), str(one.files), f"{one.before} → {one.after}"] for one in found.steps()]
    if rows:
        out.line()
        out.grid(["kind", "places", "files", "such as"], rows)
    if verbose:
        places(out, found.found, len(found.found))
    for path, why in found.kept if ahead else ():
        out.wrapped(f"– {path} {why}", "    ", "  ")
    for path in found.untouched:
        out.wrapped(f"– {path} is no text, or larger than 4 MB: it moves, and what stands in it stays", "    ", "  ")


def doubtful(out: Terminal, found: Sequence[Occurrence], verbose: bool) -> None:
    """Write the places that may be common words."""
    if not found:
        return
    out.line()
    count = len(found)
    stays = "place may mean something else and stays" if count == 1 else "places may mean something else and stay"
    out.wrapped(f"{count} {stays} as {'it is' if count == 1 else 'they are'}:", "  ", "  ")
    places(out, found, len(found) if verbose else MANY)
    out.wrapped("Add --doubtful take to change them as well.", "  ", "  ")


def copied(
    out: Terminal,
    unsure: Sequence[Occurrence],
    left: Sequence[Occurrence],
    donors: Sequence[tuple[str, int, str]],
    verbose: bool,
) -> None:
    """Write what of a donor stands in its copy."""
    if unsure:
        count = len(unsure)
        stays = "place may mean something else and stays" if count == 1 else "places may mean something else and stay"
        out.wrapped(f"{count} {stays}:", "  ", "  ")
        places(out, unsure, len(unsure) if verbose else MANY)
    if left:
        out.wrapped(f"The donor's name stands in {len(left)} places:", "  ", "  ")
        places(out, left, MANY)
    elif not unsure:
        out.wrapped("Searched in every spelling: nothing of the donor's name is in it.", "  ", "  ")
    for path, line, text in donors:
        out.wrapped(f"– {path}:{line} tells of the donor's author or date: {text}", "    ", "  ")


def places(out: Terminal, found: Iterable[Occurrence], most: int) -> None:
    """Write places, at most so many."""
    shown = list(found)
    for one in shown[:most]:
        place = f"{one.path}:{one.line}" if one.line else one.path
        out.line(f"  {out.path(place)}  {one.before} → {one.after}")
    if len(shown) > most:
        out.line(f"  and {len(shown) - most} more (--verbose)")
