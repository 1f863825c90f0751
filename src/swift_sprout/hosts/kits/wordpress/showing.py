"""The tables that people compute in their heads: addresses, rights, order and placements of a module."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from ....core.errors import HostFailed
from ....core.graphs import ModuleGraph, Need, Node
from ....core.rights import VERBS, Holder, matrix, unseen
from ....core.tables import Table
from .asking import ask_host
from .composing.shared import capability, needs_of, permission_name, roles
from .reading.parts import written_brief
from .reading.routes import pages_of, rest_routes_of

if TYPE_CHECKING:
    from ....core.brief import Brief
    from .reading.modules import ModuleFiles
    from .view import HostView

_ADMINISTRATORS = "administrators"


def show(view: HostView, what: str, module: ModuleFiles, live: bool, limit_seconds: float) -> Table:
    """Return one of the tables: routes, rights, order or placements."""
    if what == "rights":
        return _live_rights(view, module, limit_seconds) if live else _rights(module)
    if what == "order" and not live:
        note = "the order stands in the database alone, which was not asked"
        return Table("order", ("number", "module", "state"), [], [note])
    return {"routes": _routes, "order": _order, "placements": _placements}[what](view, module)


def _routes(view: HostView, module: ModuleFiles) -> Table:
    """Address, what it leads to, and where that is said."""
    rows: list[tuple[str, ...]] = []
    for page in pages_of(module):
        place = f"{page.file.path.relative_to(module.folder).as_posix()}:{page.line}"
        rows.append((page.path or page.spelled, page.leads_to, "", place))
    for route in rest_routes_of(module):
        place = f"{route.file.path.relative_to(module.folder).as_posix()}:{route.line}"
        methods = " ".join(dict.fromkeys(methods for methods, _, _ in route.handlers))
        path = re.sub(r"\(\?P<(\w+)>[^)]*\)", r"{\1}", route.path)
        rows.append((path, f"endpoint of {route.space}", methods, place))
    notes = ["endpoints stand below /wp-json/ and their space"] if rest_routes_of(module) else []
    notes = notes if rows else ["no rewrite rule and no endpoint of this module"]
    return Table("addresses", ("address", "leads to", "methods", "stands in"), rows, notes)


def _rights(module: ModuleFiles) -> Table:
    """Who may do what with each record, as the brief says and the made code gives."""
    brief = written_brief(module)
    columns = ("sort", "who", "record", "read", "create", "change", "delete", "also")
    if brief is None:
        return Table("rights", columns, [], ["this module was not made here: ask the running host with --live"])
    holders = [
        Holder("role", group.name.title, _pairs(brief, set(may)))
        for group, may in zip(brief.groups, roles(brief).values(), strict=True)
    ]
    records = [record.name.title for record in brief.records]
    permissions = [one.name.title for one in brief.permissions]
    rows = matrix(records, permissions, [*holders, Holder("user", _ADMINISTRATORS, frozenset(), True)])
    return Table("rights", columns, rows, _unseen(records, holders))


def _pairs(brief: Brief, held: set[str]) -> frozenset[tuple[str, str]]:
    found = {
        (record.name.title, verb)
        for record in brief.records
        for verb in VERBS
        if capability(brief, record, verb) in held
    }
    found |= {(one.name.title, "") for one in brief.permissions if permission_name(brief, one.key) in held}
    return frozenset(found)


def _unseen(records: list[str], holders: list[Holder]) -> list[str]:
    groups = [holder._replace(sort="group") for holder in holders]
    return [f"only administrators may read {record}: no role has that right" for record in unseen(records, groups)]


def _live_rights(view: HostView, module: ModuleFiles, limit_seconds: float) -> Table:
    """Who may do what, as the running host grants it: roles, and what they hold of the module's capabilities."""
    asked = ask_host(view, limit_seconds, only=["roles"])
    roles = asked.boot.answers.get("roles")
    if roles is None:
        raise HostFailed("host-failed", "The host did not tell its roles.", f"swift-sprout check {module.name}")
    columns = ("sort", "who", "record", "read", "create", "change", "delete", "also")
    brief = written_brief(module)
    if brief is None:
        start = module.name.replace("-", "_")
        rows: list[tuple[str, ...]] = [
            ("role", role["name"], name, "", "", "", "", "")
            for role in roles.values()
            for name in role["holds"]
            if start in name
        ]
        return Table("rights", columns, rows, [] if rows else ["no role holds a capability that names this module"])
    holders = [
        Holder("role", role["name"], pairs, note="")
        for role in roles.values()
        if (pairs := _pairs(brief, set(role["holds"])))
    ]
    records = [record.name.title for record in brief.records]
    permissions = [one.name.title for one in brief.permissions]
    return Table("rights", columns, matrix(records, permissions, holders), _unseen(records, holders))


def _order(view: HostView, module: ModuleFiles) -> Table:
    """The modules in the order in which the host loads them: as the database lists them."""
    active = (view.state or {}).get("active", [])
    keys = {one.key: one for one in view.modules}
    rows: list[tuple[str, ...]] = [
        (str(number), keys[key].name if key in keys else key, "on" if key in keys else "not there")
        for number, key in enumerate(active, 1)
    ]
    rows += [("", one.name, "off") for one in view.modules if one.key not in active]
    notes = [f"{module.name} is loaded after what stands above it; the host does not look at needs"]
    return Table("order", ("number", "module", "state"), rows, notes if active else ["the database does not answer"])


def _placements(view: HostView, module: ModuleFiles) -> Table:
    """Menu entries, blocks and widgets: where they stand and who sees them."""
    rows: list[tuple[str, ...]] = []
    brief = written_brief(module)
    if brief is not None:
        for entry in brief.menu:
            page = (
                next((one for one in brief.pages if entry.page in (one.path, *one.also)), None) if entry.page else None
            )
            who = needs_of(brief, page.access) if page is not None else "who sees what hangs below"
            under = entry.parent or ("the site's first menu" if entry.side == "site" else "the administration's menu")
            rows.append(("menu entry", entry.title, under, entry.page or "what hangs below", who))
        for block in brief.blocks:
            rows.append(
                (
                    "block",
                    block.name.title,
                    "the editor, widgets",
                    f"[{brief.name.snake}_{block.key}]",
                    "who sees the page",
                )
            )
        for one in brief.placements:
            pages = ", ".join(one.pages) or "every page"
            rows.append(
                ("placement", one.block, one.place, pages, "who sees the page" if one.published else "nobody yet")
            )
    else:
        for file in module.loaded_files:
            for call in file.calls:
                if call.name in (
                    "add_menu_page",
                    "add_submenu_page",
                    "add_options_page",
                    "add_shortcode",
                    "register_block_type",
                ):
                    said = next((value for value in call.values if isinstance(value, str)), "")
                    rows.append((call.name, said, "", "", ""))
    notes = [] if rows else ["the module puts nothing anywhere"]
    return Table("placements", ("what", "name", "under", "opens", "seen by"), rows, notes)


def graph(view: HostView) -> ModuleGraph:
    """Return the modules and what they need of each other: as headers say, and as code uses other modules' classes."""
    # the host loads modules by their names and runs them later, on hooks: its order says nothing about needs
    nodes = [Node(one.name, one.title, None, -1) for one in view.modules]
    spaces = {one.namespace.lower(): one.name for one in view.modules if one.namespace}
    needs: list[Need] = []
    for module in view.modules:
        used: dict[str, str] = {}
        for file in module.loaded_files:
            for use in file.uses:
                for space, name in spaces.items():
                    if name != module.name and use.name.lower().startswith(f"{space}\\"):
                        used.setdefault(name, f"{view.relative(file.path)}:{use.line}")
        line = module.header.lines.get("Requires Plugins", 0)
        for name in dict.fromkeys([*module.needs, *used]):
            place = used.get(name) or (f"{view.relative(module.main)}:{line}" if module.main is not None else "")
            needs.append(Need(module.name, name, name in module.needs, name in used, place))
    return ModuleGraph(nodes, needs)
