"""The tables that people compute in their heads: addresses, rights, order and placements of a trytond module."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ....core.errors import HostFailed
from ....core.graphs import ModuleGraph, Need, Node
from ....core.rights import Holder, matrix, unseen
from ....core.tables import Table
from .asking import ask
from .dependencies import used_modules
from .reading.rights import access_of
from .reading.routes import routes_of
from .view import ON

if TYPE_CHECKING:
    from .reading.modules import ModuleFiles
    from .view import HostView

_VERBS = {"read": "read", "create": "create", "write": "change", "delete": "delete"}


def routes(view: HostView, module: ModuleFiles) -> Table:
    """Address, router and method, methods, and who is let in, as the files say."""
    base = view.database_name or "DATABASE"
    rows: list[tuple[str, ...]] = []
    for one in routes_of(module):
        place = f"{one.owner.path.relative_to(module.folder).as_posix()}:{one.line}"
        address = "/" + one.rule if not one.rule.startswith("/") else one.path(base)
        who = one.open_to.replace(f"{module.name}.", "")
        rows.append((address, one.method, place, " ".join(one.methods), who))
    routers = dict.fromkeys(one.router for one in routes_of(module))
    notes = [f"addresses stand below /{base}/r/{router}" for router in routers]
    notes = notes or ["no router of this module answers an address"]
    return Table("addresses", ("address", "controller", "stands in", "methods", "open to"), rows, notes)


def rights(view: HostView, module: ModuleFiles) -> Table:
    """Who may do what with each record, as the data files say."""
    found = access_of(module)
    holders = [
        Holder("group", group or "everybody", frozenset(_shown_pair(module, *pair) for pair in pairs))
        for group, pairs in found.groups.items()
    ]
    records = [model.removeprefix(f"{module.name}.") for model in found.models]
    table = matrix(records, found.buttons, [*holders, Holder("user", "administrators", frozenset(), True)])
    notes = [*_unseen(records, holders), *found.notes]
    columns = ("sort", "who", "record", "read", "create", "change", "delete", "also")
    return Table("rights", columns, table, notes)


def _shown_pair(module: ModuleFiles, model: str, mode: str) -> tuple[str, str]:
    return (model.removeprefix(f"{module.name}."), _VERBS[mode]) if mode else (model, "")


def live_rights(view: HostView, module: ModuleFiles, limit_seconds: float) -> Table:
    """Who may do what with each record, as the running host grants it."""
    answered = ask(view, [module], limit_seconds, ("rights", "people"))
    if answered.failure:
        raise HostFailed("host-failed", f"The host could not be asked: {answered.failure}.", answered.failure_remedy)
    granted: dict[str, set[tuple[str, str]]] = {}
    records: dict[str, None] = {}
    start = f"{module.name}."
    for one in answered.answers.get("rights") or ():
        record = one["model"].removeprefix(start)
        records[record] = None
        granted.setdefault(one["group"] or "everybody", set())
        granted[one["group"] or "everybody"] |= {(record, _VERBS[mode]) for mode in one["modes"]}
    everybody = granted.get("everybody", set())
    granted = {name: pairs for name, pairs in granted.items() if name == "everybody" or pairs - everybody}
    holders = [Holder("group", name, frozenset(pairs)) for name, pairs in granted.items()]
    for person in answered.answers.get("people") or ():
        if person["active"]:
            pairs = {pair for group in ["everybody", *person["groups"]] for pair in granted.get(group, ())}
            holders.append(Holder("user", person["login"], frozenset(pairs), person["administrator"]))
    columns = ("sort", "who", "record", "read", "create", "change", "delete", "also")
    return Table("rights", columns, matrix(list(records), [], holders), _unseen(list(records), holders))


def _unseen(records: list[str], holders: list[Holder]) -> list[str]:
    return [f"only administrators may read {record}: no group has that right" for record in unseen(records, holders)]


def order(view: HostView, module: ModuleFiles) -> Table:
    """What the host loads, in its order, up to this module: the modules, then the module's data files."""
    rows: list[tuple[str, ...]] = []
    needed = view.needed(module.name)
    for number, name in enumerate(view.order, 1):
        if name in needed or name == module.name:
            other = view.module(name)
            state = view.state(other) if other is not None else ""
            rows.append((str(number), "module", name, state or ("activated" if name in ("ir", "res") else "not known")))
    for number, (item, path) in enumerate(module.data_items(), 1):
        there = (module.folder / path).is_file()
        rows.append((str(number), "data file", path, f"tryton.cfg:{item.line}" if there else "not there"))
    return Table("order", ("number", "what", "name", "state"), rows, [])


def placements(view: HostView, module: ModuleFiles) -> Table:
    """Menu entries with what they open and who sees them, and the blocks of the module's pages."""
    rows: list[tuple[str, ...]] = []
    groups: dict[str, list[str]] = {}
    for record in module.records:
        if record.model == "ir.ui.menu-res.group":
            groups.setdefault(record.ref("menu"), []).append(record.ref("group"))
    for record in module.records:
        if record.model == "ir.ui.menu":
            place = f"{record.path.name}:{record.line}"
            name = record.text("name") or _title(module, record.ref("action"))
            parent = _title(module, record.ref("parent")) or "the menu itself"
            seen_by = ", ".join(_title(module, group) for group in groups.get(record.id, [])) or "everybody"
            rows.append(("menu entry", name, parent, _opened(module, record.ref("action")), seen_by, place))
    for path in sorted((module.folder / "templates").glob("block_*.html")):
        rows.append(
            (
                "block",
                path.stem.removeprefix("block_"),
                "the module's pages",
                path.name,
                "who sees the page",
                "serving.py",
            )
        )
    notes = [] if rows else ["the module puts nothing anywhere"]
    return Table("placements", ("what", "name", "under", "opens", "seen by", "stands in"), rows, notes)


def _title(module: ModuleFiles, identity: str) -> str:
    """Return the name that people read of a record; its id where it is another module's, or has none."""
    found = module.ids.get(identity)
    return (found.text("name") if found is not None else "") or identity


def _opened(module: ModuleFiles, action: str) -> str:
    """Return what an action opens: a record, or a page over its wizard."""
    found = module.ids.get(action)
    if found is None:
        return action or "what hangs below"
    url = module.ids.get(action.replace("wizard_", "url_", 1))
    if url is not None and url.text("url"):
        return f"page {url.text('url')}"
    return (found.text("res_model") or found.text("wiz_name")).removeprefix(f"{module.name}.") or action


def graph(view: HostView) -> ModuleGraph:
    """Return the modules and what they need of each other."""
    positions = {name: number for number, name in enumerate(view.order)}
    own = list(view.modules)
    nodes = [Node(one.name, one.title, view.state(one) in ON, positions.get(one.name, -1)) for one in own]
    needs: list[Need] = []
    for module in own:
        used = used_modules(view, module)
        said = {item.text: item.line for item in module.depends}
        for name in dict.fromkeys([*said, *used]):
            if name in ("ir", "res", module.name):
                continue
            place = used.get(name, "") or f"{view.relative(module.folder)}/tryton.cfg:{said.get(name, 0)}"
            told = name in said or name in view.needed(module.name)  # what is needed over another is said as well
            needs.append(Need(module.name, name, told, name in used, place))
    return ModuleGraph(nodes, needs, ("ir", "res"))
