"""What was seen of each rung, in one line, apart from any finding."""

from __future__ import annotations

from typing import TYPE_CHECKING

from .....core.ladder import Rung, State
from .....core.plurals import number_of
from ..reading.rights import access_of
from ..reading.routes import routes_of
from ..view import ON

if TYPE_CHECKING:
    from .examination import Examination

Seen = dict[Rung, tuple[State, str]]


def evidence(exam: Examination) -> Seen:
    """Return what was seen of a module, rung by rung; rungs that only the running host can tell are left out."""
    module, view = exam.module, exam.view
    seen: Seen = {}
    if module.entries:
        entry = module.entries[0]
        seen[Rung.FOUND] = State.PASS, f"{entry.name} = {entry.package} ({view.relative(entry.file)})"
    else:
        seen[Rung.FOUND] = State.PASS, view.relative(module.folder)
    if module.manifest is not None:
        count = len(module.data_items())
        text = f"tryton.cfg: version {module.version or 'none'}, {number_of(count, 'data file')}"
        seen[Rung.DESCRIBED] = State.PASS, text
    total = len(module.registered)
    by = "by its function" if module.by_function is not None else "under [register]"
    seen[Rung.REGISTERED] = State.PASS, f"{number_of(total, 'class')} {by}"
    needs = [item.text for item in module.depends]
    seen[Rung.COMPATIBLE] = State.PASS, f"needs {', '.join(needs) or 'nothing'}; {view.data.title} {view.version}"
    state = exam.state
    if view.database is None:
        seen[Rung.ENABLED] = State.NOT_ASKED, "there is no database that can be asked"
    elif state in ON and exam.loaded is not False:
        loaded = ", loaded by the running host" if exam.loaded else ""
        seen[Rung.ENABLED] = State.PASS, f"{state} in database {view.database_name}{loaded}"
    elif not exam.named and not module.own:
        seen[Rung.ENABLED] = State.NOT_APPLICABLE, "installed for this host, but off"
    if exam.loaded:
        _live(exam, seen)
    else:
        _not_carried(exam, seen)
    return seen


def _not_carried(exam: Examination, seen: Seen) -> None:
    if not routes_of(exam.module):
        seen[Rung.ROUTED] = State.NOT_APPLICABLE, "no router, no address"
        seen[Rung.SERVED] = State.NOT_APPLICABLE, "it serves no page; its views open in the client"
    if not access_of(exam.module).models and not routes_of(exam.module):
        seen[Rung.PERMITTED] = State.NOT_APPLICABLE, "no record and no page"


def _live(exam: Examination, seen: Seen) -> None:
    records = exam.by_module("data") or ()
    models = [name for sort, name in exam.by_module("registry") or () if sort == "model"]
    views = sum(record.model == "ir.ui.view" for record in exam.module.records)
    seen[Rung.INSTALLED] = (
        State.PASS,
        f"models: {len(models)}, all with their tables; data records: {len(records)}; views that open: {views}",
    )
    routes = exam.answers("routes")
    _not_carried(exam, seen)
    if routes:
        seen[Rung.ROUTED] = State.PASS, f"{number_of(len(routes), 'address')}, e.g. {routes[0]['path']}"
    rights = exam.answers("rights")
    pages = [page for page in exam.answers("pages") if page["status"] is not None]
    everybody = {(right["model"], mode) for right in rights if not right["group"] for mode in right["modes"]}
    groups = {
        right["group"]
        for right in rights
        if right["group"] and any((right["model"], mode) not in everybody for mode in right["modes"])
    }
    if rights or pages:
        who = f"{number_of(len(groups), 'group')} with rights" if groups else "no group with rights"
        turned = len({page["asked"] for page in pages if page["who"] == "visitor" and page["status"] in (401, 403)})
        seen[Rung.PERMITTED] = State.PASS, f"{who}, {turned} pages turn visitors away"
    menus = exam.answers("menus")
    if menus:
        seen[Rung.PLACED] = State.PASS, f"{len(menus)} menu entries that open, e.g. {menus[-1]['title']}"
    else:
        seen[Rung.PLACED] = State.NOT_APPLICABLE, "no menu entry"
    good = [page for page in pages if 200 <= page["status"] < 300]
    if good:
        seen[Rung.SERVED] = State.PASS, f"{len({page['asked'] for page in good})} pages, e.g. {good[0]['asked']}"
    elif exam.answers("pages"):
        seen[Rung.SERVED] = (
            State.NOT_APPLICABLE,
            "no page can be called without a record that stands for its parameters",
        )
