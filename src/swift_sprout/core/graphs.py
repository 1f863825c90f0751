"""Modules and what they need of each other: order, circles, what is missing and what is said without need."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple


class Node(NamedTuple):
    """A module; ``position`` is its place in the host's load order, -1 for one that is off.

    enabled -- None where that was not asked, for files do not tell it
    """

    name: str
    title: str
    enabled: bool | None
    position: int


class Need(NamedTuple):
    """One module needs another: ``said`` in the brief, ``used`` by code, and a place that shows it."""

    module: str
    needs: str
    said: bool
    used: bool
    place: str = ""


class ModuleGraph:
    """The modules of a host with their needs."""

    def __init__(self, nodes: Iterable[Node], needs: Iterable[Need], known_elsewhere: Iterable[str] = ()) -> None:
        self.nodes = list(nodes)
        self.needs = list(needs)
        self.names = {node.name for node in self.nodes}
        self.elsewhere = set(known_elsewhere)

    def of(self, name: str) -> list[Need]:
        """Return what a module needs."""
        return [need for need in self.needs if need.module == name]

    def needed_by(self, name: str) -> list[str]:
        """Return the modules that need one."""
        return [need.module for need in self.needs if need.needs == name]

    def missing(self) -> list[Need]:
        """Return the needs that nothing on the host meets."""
        return [need for need in self.needs if need.needs not in self.names and need.needs not in self.elsewhere]

    def circles(self) -> list[list[str]]:
        """Return the circles, each once, beginning with its first name and ending with it."""
        found: dict[frozenset[str], list[str]] = {}
        for start in sorted(self.names):
            waiting = [[start]]
            seen: set[str] = set()
            while waiting:
                trail = waiting.pop()
                for need in self.of(trail[-1]):
                    if need.needs == start:
                        found.setdefault(frozenset(trail), [*trail, start])
                    elif need.needs not in seen and need.needs in self.names:
                        seen.add(need.needs)
                        waiting.append([*trail, need.needs])
        return list(found.values())

    def superfluous(self) -> list[tuple[Need, str]]:
        """Return the needs that are said but met anyway over another, with that other; used ones are not."""
        found = []
        for need in self.needs:
            if need.used or not need.said:
                continue
            for other in self.of(need.module):
                if other.needs != need.needs and need.needs in self._below(other.needs, {need.module}):
                    found.append((need, other.needs))
                    break
        return found

    def _below(self, name: str, seen: set[str]) -> set[str]:
        found: set[str] = set()
        waiting = [name]
        while waiting:
            one = waiting.pop()
            for need in self.of(one):
                if need.needs not in found and need.needs not in seen:
                    found.add(need.needs)
                    waiting.append(need.needs)
        return found

    def out_of_order(self) -> list[Need]:
        """Return the needs whose module is listed before what it needs."""
        positions = {node.name: node.position for node in self.nodes if node.position >= 0}
        return [
            need
            for need in self.needs
            if need.module in positions and need.needs in positions and positions[need.needs] > positions[need.module]
        ]

    def order(self) -> list[str]:
        """Return the modules so that each stands behind what it needs; those in circles keep their order."""
        done: list[str] = []
        waiting = sorted(self.nodes, key=lambda node: (node.position < 0, node.position, node.name))
        names = [node.name for node in waiting]
        while names:
            placed = set(done)
            ready = next(
                (name for name in names if all(n.needs in placed or n.needs not in self.names for n in self.of(name))),
                names[0],
            )
            names.remove(ready)
            done.append(ready)
        return done
