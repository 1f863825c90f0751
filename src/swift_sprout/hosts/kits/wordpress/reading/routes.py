"""The addresses that a module's files give the host: rewrite rules and routes of the REST interface."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, NamedTuple

from .phpfile import Call, PhpFile
from .syntax import array_items, literal, text_of

if TYPE_CHECKING:
    from tree_sitter import Node

    from .modules import ModuleFiles


class PageRule(NamedTuple):
    """One rewrite rule: what it matches, where it leads, and the address where it matches just one.

    path -- with slashes around, empty when the rule matches more; changing -- True when parts of it change
    """

    rule: str
    query: str
    path: str
    changing: bool
    file: PhpFile
    line: int
    inside: tuple[str, str]

    @property
    def variables(self) -> list[str]:
        """The query variables that it sets."""
        return re.findall(r"[?&]([A-Za-z_][A-Za-z0-9_-]*)=", self.query)

    @property
    def spelled(self) -> str:
        """The rule as an address for people, its changing parts by the names of their variables."""
        names = iter(re.findall(r"([A-Za-z_][A-Za-z0-9_-]*)=\$matches", self.query))
        text = re.sub(
            r"\((?:[^()]|\([^()]*\))*\)", lambda found: f"{{{next(names, '…').rpartition('_in_')[2]}}}", self.rule
        )
        return "/" + re.sub(r"/?\??\$$", "", text.lstrip("^")).replace("\\", "").strip("/") + "/"

    @property
    def leads_to(self) -> str:
        """Where it leads: the name of the page, or the whole query."""
        page = re.search(r"[?&]\w+_page=(\w+)", self.query)
        return page.group(1) if page else self.query.removeprefix("index.php?")


class RestRoute(NamedTuple):
    """One route of the REST interface: space, path, and for each handler its methods and whether it is guarded."""

    space: str
    path: str
    handlers: list[tuple[str, bool, Node | None]]
    file: PhpFile
    line: int
    inside: tuple[str, str]

    @property
    def address(self) -> str:
        """The route as the host knows it: it takes slashes away around both parts."""
        return f"/{self.space.strip('/')}/{self.path.strip('/')}".rstrip("/")


def calls_of(module: ModuleFiles, *names: str) -> list[tuple[PhpFile, Call]]:
    """Return the calls of the host's functions of those names, in the module's code."""
    found = {file.path: file for name in names for file in module.files_with(name.encode())}
    return [(file, call) for file in found.values() for call in file.calls if call.name in names]


def pages_of(module: ModuleFiles) -> list[PageRule]:
    """Return the rewrite rules that a module adds, as far as its files say them."""
    found = []
    for file, call in calls_of(module, "add_rewrite_rule"):
        rule, query = (*call.values, None, None)[:2]
        if not isinstance(rule, str):
            continue
        said = query if isinstance(query, str) else ""
        changing = bool(re.search(r"[(\[.+*|{]", re.sub(r"/\?\$$", "", rule)))
        path = "" if changing else "/" + re.sub(r"/?\??\$$", "", rule.lstrip("^")).replace("\\", "").strip("/") + "/"
        found.append(PageRule(rule, said, path.replace("//", "/"), changing, file, call.line, call.inside))
    return found


def rest_routes_of(module: ModuleFiles) -> list[RestRoute]:
    """Return the routes of the REST interface that a module adds, as far as its files say them."""
    found = []
    for file, call in calls_of(module, "register_rest_route"):
        space, path = (*call.values, None, None)[:2]
        handlers: list[tuple[str, bool, Node | None]] = []
        if len(call.nodes) > 2:
            items = array_items(call.nodes[2])
            groups = [value for key, value in items if key is None and value.type == "array_creation_expression"]
            for group in groups or [call.nodes[2]]:
                keys = {literal(key): value for key, value in array_items(group) if key is not None}
                methods = text_of(keys.get("methods")).strip("'\"") or "GET"
                if keys:
                    guarded = "permission_callback" in keys or None in keys  # a key that is worked out may be it
                    handlers.append((methods, guarded, keys.get("callback")))
        said = space if isinstance(space, str) else ""
        found.append(RestRoute(said, path if isinstance(path, str) else "", handlers, file, call.line, call.inside))
    return found
