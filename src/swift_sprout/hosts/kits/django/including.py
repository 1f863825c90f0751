"""Where the root addresses take in a module: in a list that always counts, ahead of what answers for everything."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

from ....edits.python import items_of
from .reading.matching import answers, sample_address

if TYPE_CHECKING:
    from .reading.addresses import AddressFile, PatternList, Route
    from .reading.modules import ModuleFiles
    from .view import HostView


class Place(NamedTuple):
    """A place in a list of patterns: ahead of one of its elements, or at its end."""

    holder: PatternList
    before: int | None
    modules: int


def place_for(view: HostView, conf: AddressFile, module: ModuleFiles, prefix: str) -> Place | None:
    """Return where a module's addresses go: beside those of the host's other modules; None where no place is safe.

    prefix -- the address under which they go, such as ``tides/``; empty for the root
    """
    wall = _first_in_the_way(view, conf, module, prefix)
    own = {one.urls for one in view.modules if one.urls and one is not module}
    places = []
    for holder in conf.lists:
        if holder.prefixed or holder.conditional:
            continue
        routes = [route for route in conf.routes if route.holder is holder]
        before = None
        if wall is not None and conf.routes[wall].holder is holder:
            node = conf.routes[wall].node
            before = next((at for at, element in enumerate(items_of(holder.node)) if element is node), None)
        elif wall is not None and _is_behind(holder, routes, conf, wall):
            continue
        places.append(Place(holder, before, sum(route.includes in own for route in routes)))
    behind_others = [one for one in places if one.before != 0] or places
    return max(reversed(behind_others), key=lambda one: (one.modules, not one.holder.localised), default=None)


def _is_behind(holder: PatternList, routes: list[Route], conf: AddressFile, wall: int) -> bool:
    """True for a list that is only reached by addresses that one of the root's routes leaves."""
    if routes:
        return conf.routes.index(routes[0]) > wall
    return holder.node.lineno > conf.routes[wall].line


def _first_in_the_way(view: HostView, conf: AddressFile, module: ModuleFiles, prefix: str) -> int | None:
    """Return which of the root's routes is the first that would answer an address of the module."""
    inner = view.addresses.file(module.urls)
    found = [sample_address(route) for route in inner.routes] if inner is not None else []
    wanted = [prefix + address for address in found if address is not None] or [prefix or "sample/"]
    for at, route in enumerate(conf.routes):
        if route.includes != module.urls and (
            view.catches_all(route) or any(answers(view.addresses, route, address) for address in wanted)
        ):
            return at
    return None
