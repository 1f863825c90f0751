"""The tables that people compute in their heads: addresses, rights, order and placements of a Django module."""

from __future__ import annotations

import ast
from typing import TYPE_CHECKING, Any

from ....core.graphs import ModuleGraph, Need, Node
from ....core.plurals import number_of
from ....core.rights import Holder, closed, matrix, unseen
from ....core.tables import Table
from .asking import Asking, permission_of
from .dependencies import needed_by_code, said_needs
from .examining.examination import Examination
from .examining.rules.rights import groups_of
from .placing import is_placed
from .reading.code import class_named, function_named, template_names
from .reading.guards import guard_of_controller
from .reading.overrides import overridden
from .registration import brief_of

if TYPE_CHECKING:
    from .reading.modules import ModuleFiles
    from .view import HostView

_VERBS = {"view": "read", "add": "create", "change": "change", "delete": "delete"}


def routes(view: HostView, module: ModuleFiles) -> Table:
    """Address, controller, template, and who is let in, as the files say."""
    one = Examination(view, module)
    rows: list[tuple[str, ...]] = []
    for address in one.addresses:
        dotted, _, name = address.view.rpartition(".")
        path = view.project.file_of(dotted)
        source = view.project.parse(path) if path is not None else None
        node = None
        if source is not None and source.tree is not None:
            node = class_named(source.tree, name) or function_named(source.tree, name)
        said = next(iter(template_names(node)), None) if node is not None else None  # type: ignore[arg-type]
        template = said.text if said else ""
        found = view.templates.named(template) if template else None
        mark = "" if not template or found else "  (not there)"
        place = f"{view.relative(path)}:{node.lineno}" if path is not None and node is not None else address.view
        who = _open_to(view, address.view, node).replace(f"{module.label}.", "")
        rows.append((address.path, name, place.removeprefix(f"{view.relative(module.folder)}/"), template + mark, who))
    notes = [] if rows else ["no address of the host leads to a controller of this module"]
    return Table("addresses", ("address", "controller", "stands in", "template", "open to"), rows, notes)


def _open_to(view: HostView, controller: str, node: Any) -> str:
    permission = permission_of(view, controller)
    if permission:
        return f"holders of {permission}"
    guard = guard_of_controller(view, controller)
    text = ast.unparse(node) if node is not None else ""
    text += " ".join(guard.rights) if guard is not None else ""
    if "is_staff" in text or "staff_member_required" in text:
        return "staff"
    if "LoginRequiredMixin" in text or "login_required" in text:
        return "people signed in"
    if ".endpoints." in controller and "needs = {" in text:
        return "as its table needs says"
    return "anyone" if node is not None else "unknown"


def rights(view: HostView, module: ModuleFiles, live: bool, limit_seconds: float) -> Table:
    """Who may do what with which record: groups and users of the running host, or the groups of the files alone."""
    one = Examination(view, module)
    records = {node.name.lower(): node.name for _, node in one.model_classes()}
    permissions = sorted(
        name.partition(".")[2]
        for name in view.permissions(module.label) or ()
        if name.partition(".")[2].partition("_")[2] not in records
    )
    _, _, table = groups_of(one)
    notes: list[str] = []
    if live:
        with Asking(view, limit_seconds, ("rights",)) as asking:
            told = asking.about([module]).answers.get("rights") or {}
        holders = _told_holders(records, told, {name: list(group.get("includes", ())) for name, group in table.items()})
        missing = [name for name in table if name not in {holder.name for holder in holders}]
        notes += [f"the group {name} is not in the database yet: swift-sprout settle {module.name}" for name in missing]
    else:
        own = {name: [_right(records, right) for right in group.get("may", ())] for name, group in table.items()}
        includes = {name: list(group.get("includes", ())) for name, group in table.items()}
        holders = [
            Holder("group", name, closed(own, includes, name), note=_includes_note(includes.get(name, [])))
            for name in own
        ]
        notes.append("from the files alone: what administrators gave by hand is not seen")
    notes += [f"no group may read {record}" for record in unseen(records.values(), holders)] if holders else []
    if not holders:
        notes.append("no group and no user has rights on this module's records")
    notes += [f"the {holder.sort} {holder.name}: {holder.note}" for holder in holders if holder.note]
    columns = ("sort", "who", "record", "read", "create", "change", "delete", "also")
    return Table("rights", columns, matrix(records.values(), permissions, holders), notes)


def _right(records: dict[str, str], codename: str) -> tuple[str, str]:
    verb, _, model = codename.partition("_")
    return (records[model], _VERBS[verb]) if verb in _VERBS and model in records else (codename, "")


def _includes_note(names: list[str]) -> str:
    return f"includes {', '.join(names)}" if names else ""


def _told_holders(records: dict[str, str], told: dict[str, Any], includes: dict[str, list[str]]) -> list[Holder]:
    def pairs(rights: list[str]) -> frozenset[tuple[str, str]]:
        return frozenset(_right(records, right.partition(".")[2]) for right in rights)

    holders = []
    by_group = {group["name"]: pairs(group["rights"]) for group in told.get("groups", ())}
    for group in told.get("groups", ()):
        if not group["rights"]:
            continue
        count = group["members"]
        members = "no members" if not count else number_of(count, "member")
        note = "; ".join(filter(None, (members, _includes_note(includes.get(group["name"], [])))))
        holders.append(Holder("group", group["name"], by_group[group["name"]], note=note))
    for user in told.get("users", ()):
        rights = pairs(user["rights"]).union(*(by_group.get(name, frozenset()) for name in user["groups"]))
        if not (rights or user["superuser"]):
            continue
        said = [] if user["active"] else ["not active: turned away everywhere"]
        said += ["superuser"] if user["superuser"] else []
        said += [f"in {', '.join(user['groups'])}"] if user["groups"] else []
        everything = user["superuser"] and user["active"]
        mine = rights if user["active"] else frozenset()
        holders.append(Holder("user", user["name"], mine, everything, "; ".join(said)))
    return holders


def order(view: HostView, module: ModuleFiles) -> Table:
    """The host's load order, with what the module needs and who needs it."""
    needs = {*said_needs(view, module), *needed_by_code(view, module)}
    rows: list[tuple[str, ...]] = []
    for number, entry in enumerate(view.listed, 1):
        name = view.app_of(entry.value)
        other = view.module(name)
        label = other.label if other is not None else name.rpartition(".")[2]
        said = ["this module"] if name == module.name else []
        said += ["needed"] if label in needs else []
        said += ["needs this module"] if other is not None and module.label in said_needs(view, other) else []
        place = f"{view.relative(entry.file)}:{entry.line}" + (" (under a condition)" if entry.conditional else "")
        rows.append((str(number), name, place, ", ".join(said)))
    notes = ["templates, translations and console commands are taken from the module that stands first"]
    if view.entry_of(module) is None:
        notes.insert(0, f"{module.name} is not listed: swift-sprout enable {module.name}")
    migrations = sorted(path.stem for path in (module.folder / "migrations").glob("[0-9]*.py"))
    if migrations:
        notes.append(f"its migrations are applied in this order: {', '.join(migrations)}")
    return Table("load order", ("#", "module", "listed at", "note"), rows, notes)


def placements(view: HostView, module: ModuleFiles) -> Table:
    """Where the module's blocks, menu and screens stand."""
    rows: list[tuple[str, ...]] = []
    for library in module.libraries:
        for tag in library.blocks:
            standing = [
                f"{view.relative(template.path)}:{used.line}"
                for template in view.templates.all
                for used in template.tags
                if used.name == tag
            ]
            sort = "menu" if library.name.endswith("_menu") else "block"
            rows += [(sort, tag, place, "stands there") for place in standing] or [(sort, tag, "nowhere", "not placed")]
    brief = brief_of(module)
    for placement in brief.placements if brief is not None else ():
        if placement.side == "site":
            there = is_placed(view, module, brief, placement) if brief is not None else False
            state = "stands there" if there else "not placed" if placement.published else "prepared, not published"
            pages = f" on {', '.join(placement.pages)}" if placement.pages else ""
            rows.append(("placement", placement.block, placement.place + pages, state))
    source = view.project.parse(module.folder / "admin.py")
    if source is not None and source.source is not None and "register" in source.source.text:
        place = "administration" if view.includes_screens else "nowhere"
        rows.append(("screens", view.relative(module.folder / "admin.py"), place, ""))
    notes = [] if rows else ["this module carries nothing that is placed"]
    return Table("placements", ("sort", "name", "where", "state"), rows, notes)


def graph(view: HostView) -> ModuleGraph:
    """The host's own modules and what they need of each other."""
    #  an override has the label of the app whose place it takes: its package tells the two apart
    shown = {one.label: one.name if overridden(view, one) is not None else one.label for one in view.modules}
    nodes = []
    needs: list[Need] = []
    for module in view.modules:
        position = view.position(module)
        nodes.append(
            Node(
                shown[module.label],
                module.title,
                view.entry_of(module) is not None,
                -1 if position is None else position,
            )
        )
        said, used = said_needs(view, module), needed_by_code(view, module)
        for name in dict.fromkeys((*said, *used)):
            place = f"{view.relative(used[name][0])}:{used[name][1]}" if name in used else ""
            place = place or view.relative(module.folder / "sprout.toml")
            needs.append(Need(shown[module.label], shown.get(name, name), name in said, name in used, place))
    return ModuleGraph(nodes, needs, view.claims.labels)
