"""Why a page, record, command or block of a Django module is seen by somebody, or is not."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ....core.conditions import Answer, Condition, judged
from ....core.errors import HostFailed, WrongUse
from ....core.ladder import RUNGS, Rung, State
from ....core.plurals import number_of
from ...shared.explaining import (
    PERSONS,
    answered,
    ground_of,
    not_running,
    person_named,
    unknown_person,
    unknown_thing,
    whole_module,
)
from .asking import Asking, permission_of
from .examining.examination import Examination
from .examining.examine import examine_with
from .facts import django
from .reading.menus import MenuLine, menu_entries

if TYPE_CHECKING:
    from collections.abc import Iterator
    from pathlib import Path

    from .reading.modules import ModuleFiles
    from .reading.templates import TemplateFile
    from .view import HostView

WORDS = {"administrator": "superuser"}  # the host's own
STEPS = ("checks", "migrations", "pages", "screens", "commands", "person")
#  which rungs a sort of thing stands on
STANDS_ON = {
    "page": RUNGS[: RUNGS.index(Rung.ROUTED)],
    "record": RUNGS[: RUNGS.index(Rung.ROUTED)],
    "command": RUNGS[: RUNGS.index(Rung.INSTALLED)],
    "block": RUNGS[: RUNGS.index(Rung.ROUTED)],
    "menu entry": RUNGS[: RUNGS.index(Rung.ROUTED)],
}


SOMEWHERE = "/…/"  # before an address of which only the end is told


class Things:
    """What a module carries that can be asked about, by the name that people say."""

    def __init__(self, exam: Examination) -> None:
        self.module = exam.module.name
        self.pages = {address.path: address.view for address in exam.addresses}
        own = exam.view.addresses.file(exam.module.urls) if exam.module.urls else None
        if not self.pages and own is not None:
            prefix = "/" if exam.module.tells_paths else SOMEWHERE
            self.pages = {prefix + route.pattern: route.view for route in own.routes if route.pattern is not None}
        self._take_over(exam)
        self.records = {node.name: (path, node.lineno) for path, node in exam.model_classes()}
        folder = exam.module.folder / "management" / "commands"
        self.commands = {path.stem: path for path in folder.glob("*.py") if not path.name.startswith("_")}
        self.blocks = {
            tag: library
            for library in exam.view.templates.libraries
            if library.owner == exam.module.name
            for tag in library.tags
            if not (library.name.endswith("_menu") and tag.endswith("_menu"))
        }
        self.menu = menu_entries(exam.view, exam.module)

    def _take_over(self, exam: Examination) -> None:
        """Take the pages that the running host has, which knows addresses that reading cannot follow."""
        routes = {
            str((not route.get("guessed") and route.get("path")) or route["route"]): str(route["view"])
            for route in exam.routes
        }
        if routes:
            alike = {path: view for path, view in self.pages.items() if view in routes.values() or path in routes}
            others = {path: view for path, view in self.pages.items() if not path.startswith(SOMEWHERE)}
            self.pages = {**alike, **routes, **others}

    def names(self) -> list[str]:
        """Return every name that can be asked about."""
        return [*self.pages, *self.records, *self.commands, *self.blocks, *self.menu]


def why(view: HostView, module: ModuleFiles, what: str | None, person: str, limit_seconds: float) -> Answer:
    """Return the answer; the host is started once.

    what   -- an address, a record, a console command or a block; None for the module's first page, or else itself
    person -- one of PERSONS, or the name of a user of the host
    """
    person = person_named(person)
    things = Things(Examination(view, module))
    in_tree = what is not None and what.startswith("/") and "page_type" in view.data.parts
    try:
        sort, name = _sort_of(things, what)
    except WrongUse:
        if what is None or not what.startswith("/"):
            raise
        sort, name = "page", what  # which no file tells, but perhaps the running host
    if view.interpreter is None:
        raise HostFailed("no-interpreter", "Why needs the running host.", "Name an interpreter with --runtime PATH.")
    probe = django(view.data).probe if in_tree else None
    steps = [*STEPS, *(probe.steps if probe is not None else ())]
    with Asking(view, limit_seconds, steps, {"person": WORDS.get(person, person)}) as asking:
        live = asking.about([module])
    setup, check = examine_with(view, module, live)
    if setup.failure:
        return not_running(module.name, f"{sort} {name}".strip(), person, setup.failure)
    who = live.answers.get("person") or {}
    if who.get("unknown"):
        raise unknown_person(person, who.get("names", []))
    one = Examination(view, module, live)
    page = _page_in_tree(one, name) if sort == "page" and name not in things.pages else None
    things = Things(one)
    if page is not None:
        name = page["path"]
        things.pages[name] = page["view"]
    elif sort in ("page", ""):
        sort, name = _sort_of(things, what)
    ground = ground_of(check, STANDS_ON.get(sort, RUNGS))
    if sort == "page":
        return _page(one, things, name, person, who, (*ground, *_standing(page)))
    if sort == "record":
        return _record(one, things, name, person, who, ground)
    if sort == "command":
        return _command(one, things, name, person, ground)
    if sort == "block":
        return _block(one, things, name, person, ground)
    if sort == "menu entry":
        return _menu_entry(one, things.menu[name], person, who, ground)
    return whole_module(check, person, ground)


def _sort_of(things: Things, what: str | None) -> tuple[str, str]:
    if what is None:
        plain = [path for path in things.pages if "<" not in path and "(" not in path]
        return ("page", plain[0]) if plain else ("", "")
    if what.startswith("/"):
        wanted = what.rstrip("/")
        for path in things.pages:
            if path.rstrip("/") == wanted or (
                path.startswith(SOMEWHERE) and wanted.endswith("/" + path[3:].strip("/"))
            ):
                return "page", path
    else:
        known: tuple[tuple[str, dict[str, Any]], ...] = (
            ("record", things.records),
            ("command", things.commands),
            ("block", things.blocks),
            ("menu entry", things.menu),
        )
        for sort, names in known:
            for name in names:
                if _squeezed(name) == _squeezed(what):
                    return sort, name
    raise unknown_thing(things.module, what, things.names())


def _squeezed(text: str) -> str:
    return text.lower().replace("_", "").replace(" ", "").replace("-", "")


def _failed(conditions: tuple[Condition, ...]) -> bool:
    return any(one.state is State.FAIL for one in conditions)


# -- pages -------------------------------------------------------------------------------------------------------


def _page(
    exam: Examination, things: Things, path: str, person: str, who: dict[str, Any], ground: tuple[Condition, ...]
) -> Answer:
    controller = things.pages[path]
    route = next((route for route in exam.routes if route["view"] == controller), None)
    conditions = [*ground]
    place = f"{exam.view.relative(exam.module.folder)}/urls.py"
    reached = route is not None
    mends = _mends(exam, Rung.ROUTED)
    conditions.append(judged("an address leads to it", reached, f"{path} → {controller}" if reached else place, mends))
    if route is not None:
        answers = route.get("answers")
        evidence = f"answered by {answers}" if answers else str(route.get("needs") or "it cannot be called")
        conditions.append(
            judged("no other controller stands before it", answers in (None, controller), evidence, mends)
        )
        conditions.append(_guard(exam.view, exam, controller, person, who))
    asked = _answer_for(exam, controller)
    now = "nothing was asked"
    if asked is not None:
        status, served_by = asked["status"], asked["view"]
        now = _seen_now(asked)
        good = 200 <= status < 300
        conditions.append(judged("the page answers", good, f"status {status}", _mends(exam, Rung.SERVED)))
        if good:
            mine = served_by == controller
            conditions.append(judged("the answer is the module's own", mine, f"made by {served_by or 'middleware'}"))
    tree = tuple(conditions)
    seen = not _failed(tree) and asked is not None
    if route is None:
        now = "404: no address leads to it"
    return Answer(exam.module.name, f"page {path}", person, seen, now, tree)


def _page_in_tree(exam: Examination, path: str) -> dict[str, Any] | None:
    """Return what the host's tree of pages tells of a page of the module, live or not; None where it has none there."""
    pages = ((exam.live.answers.get("tree") or {}) if exam.live is not None else {}).get("pages", ())
    for page in pages:
        if page["module"] == exam.module.name and str(page["path"]).rstrip("/") == path.rstrip("/"):
            return dict(page)
    return None


def _standing(page: dict[str, Any] | None) -> tuple[Condition, ...]:
    """What must hold of a page in the tree for its address to be found."""
    if page is None:
        return ()
    title, above = page["title"], page["drafts_above"]
    publish = "publish it in the host's administration"
    return (
        judged("the page stands in the tree", True, f"{title!r} below {page['parent']!r}"),
        judged(f"its type may stand below {page['parent']!r}", page["allowed"], page["type"], "move it, or allow it"),
        judged("the page is live", page["live"], "" if page["live"] else "it is a draft", publish),
        judged("the pages above it are live", not above, ", ".join(above), publish),
    )


def _guard(view: HostView, exam: Examination, controller: str, person: str, who: dict[str, Any]) -> Condition:
    """What the controller's guard asks for, against what the person has."""
    permission = permission_of(view, controller)
    if not permission:
        asked = _answer_for(exam, controller)
        turned = asked is not None and asked["status"] in (301, 302, 401, 403)
        if not turned:
            return judged("the person may open it", True, "no permission is asked for")
        mend = "sign in" if person == "visitor" else f"look at the guard of {controller}"
        return judged("the person may open it", False, f"turned away with status {asked['status']}", mend)  # type: ignore[index]
    known = view.permissions(permission.partition(".")[0])
    held = permission in who.get("permissions", []) or bool(who.get("is_superuser"))
    groups = ", ".join(who.get("groups", [])) or "none"
    label = permission.partition(".")[2]
    return judged(
        f"the person holds {permission}",
        held,
        f"{person}: groups {groups}; {number_of(len(who.get('permissions', [])), 'permission')}",
        _as_user(
            person,
            f"give {{}} the permission {label}, directly or through a group (administration: Users)",
            f"sign in as somebody who holds {permission}",
        ),
        judged(
            f"the permission {permission} exists",
            known is None or permission in known,
            "",
            f"declare {label} in Meta.permissions",
        ),
        judged(
            "the person is signed in and active", bool(who.get("is_active")), "", "sign in as somebody who holds it"
        ),
    )


def _as_user(person: str, for_user: str, for_kind: str) -> str:
    """Word a mend for a user of the host, or for a kind of person."""
    return for_kind if person in PERSONS else for_user.format(person)


def _answer_for(exam: Examination, controller: str) -> dict[str, Any] | None:
    found: dict[str, Any] | None = (exam.live.answers.get("asked_as") or {}).get(controller) if exam.live else None
    return found


def _seen_now(asked: dict[str, Any]) -> str:
    status = asked["status"]
    if status in (301, 302, 303):
        return f"{status}: sent on to {asked['location']}"
    if 200 <= status < 300:
        return f"{status}: the page, {number_of(asked['bytes'], 'byte')}"
    return {403: "403: refused", 404: "404: not found", 500: "500: an error page"}.get(status, str(status))


def _mends(exam: Examination, rung: Rung) -> str:
    """The first mend that findings of a rung name."""
    _, check = examine_with(exam.view, exam.module, exam.live)
    return next((found.mend for found in check.findings if found.rung is rung and not found.follows_from), "")


# -- records, commands, blocks -----------------------------------------------------------------------------------


def _record(
    exam: Examination, things: Things, name: str, person: str, who: dict[str, Any], ground: tuple[Condition, ...]
) -> Answer:
    path, line = things.records[name]
    registered = exam.registered_as or {}
    model = next((model for model in registered.get("models", []) if model["name"] == name), None)
    screens = (exam.live.answers.get("screens") or {}) if exam.live else {}
    screen = screens.get(f"{exam.module.label}.{name}")
    right = f"{exam.module.label}.view_{name.lower()}"
    held = bool(who.get("is_superuser")) or right in who.get("permissions", [])
    module = exam.module.label
    tree = (
        *ground,
        judged(
            "the running host knows the record",
            model is not None,
            f"{exam.view.relative(path)}:{line}",
            f"import it in {module}/models",
        ),
        judged(
            "it has an administration screen", screen is not None, screen or "", f"register {name} in {module}/admin.py"
        ),
        judged(
            "the person may use the administration",
            bool(who.get("is_staff")),
            f"{person}: staff {'yes' if who.get('is_staff') else 'no'}",
            _as_user(person, "mark {} as staff (administration: Users)", "sign in as somebody who is staff"),
        ),
        judged(
            f"the person holds {right}",
            held,
            f"groups {', '.join(who.get('groups', [])) or 'none'}",
            _as_user(
                person,
                f"give {{}} the right to view {name}, directly or through a group (administration: Users)",
                f"sign in as somebody who holds {right}",
            ),
        ),
    )
    seen = not _failed(tree)
    now = f"the list at {screen}" if seen else "no entry in the administration"
    return answered(exam.module.name, f"record {name}", person, now, tree)


def _command(exam: Examination, things: Things, name: str, person: str, ground: tuple[Condition, ...]) -> Answer:
    known = (exam.live.answers.get("commands") or {}) if exam.live else {}
    owner = known.get(name)
    tree = (
        *ground,
        judged(
            "the host lists the command",
            owner is not None,
            f"of {owner}" if owner else _place(exam, things.commands[name]),
            _mends(exam, Rung.ENABLED),
        ),
        judged(
            "no other module's command stands before it",
            owner in (None, exam.module.name),
            owner or "",
            _mends(exam, Rung.COMPATIBLE),
        ),
        judged("it can be called", not _has(exam, "enabled.command-class-absent"), "", _mends(exam, Rung.ENABLED)),
    )
    seen = not _failed(tree)
    now = f"python manage.py {name} runs it" if seen else f"python manage.py {name} does not run it"
    return answered(exam.module.name, f"command {name}", person, now, tree)


def _block(exam: Examination, things: Things, name: str, person: str, ground: tuple[Condition, ...]) -> Answer:
    library = things.blocks[name]
    placed = [template for template in exam.view.templates.all if any(tag.name == name for tag in template.tags)]
    loading = [
        template
        for template in placed
        if any(tag.name == "load" and library.name in tag.rest.split() for tag in template.tags)
    ]
    line = library.tags[name]
    where = ", ".join(exam.view.relative(template.path) for template in placed)
    head = f"{{% load {library.name} %}}"
    tree = (
        *ground,
        judged(
            "its library can be loaded",
            library.registers,
            f"{_place(exam, library.path)}:{line}",
            "write: register = template.Library()",
        ),
        judged("it stands in a template", bool(placed), where, f"put {head} and {{% {name} %}} into a template"),
        judged(
            "that template loads its library",
            len(loading) == len(placed),
            where,
            f"write {head} at the head of {where}",
        ),
        *_drawn(exam, name, placed),
    )
    seen = not _failed(tree)
    return Answer(
        exam.module.name,
        f"block {name}",
        person,
        seen,
        f"it stands in {where}" if seen else "it is nowhere to be seen",
        tree,
    )


def _menu_entry(
    exam: Examination, entry: MenuLine, person: str, who: dict[str, Any], ground: tuple[Condition, ...]
) -> Answer:
    tag = f"{exam.module.label}_menu"
    standing = [template for template in exam.view.templates.all if any(used.name == tag for used in template.tags)]
    where = ", ".join(exam.view.relative(template.path) for template in standing)
    named = [route for route in exam.routes if route.get("name") == entry.page]
    conditions = [
        *ground,
        judged("the menu stands in a template", bool(standing), where, f"put {{% load {tag} %}}{{% {tag} %}} into one"),
    ]
    if entry.page:
        mend = f"fix the name at {entry.place}"
        conditions.append(
            judged("its page has an address", bool(named), named[0]["route"] if named else entry.page, mend)
        )
    if entry.needs:
        held = bool(who.get("is_superuser")) or entry.needs in who.get("permissions", [])
        held = held or (entry.needs == "signed in" and bool(who.get("is_active")))
        held = held or (entry.needs == "staff" and bool(who.get("is_staff")))
        mend = _as_user(person, f"give {{}} the right {entry.needs}", f"sign in as somebody who has {entry.needs}")
        conditions.append(judged(f"the person has {entry.needs}", held, entry.place, mend))
    tree = tuple(conditions)
    seen = not _failed(tree)
    now = "it stands in the menu" if seen else "it is left out of the menu, in silence"
    return answered(exam.module.name, f"menu entry {entry.title}", person, now, tree)


def _drawn(exam: Examination, tag: str, placed: list[TemplateFile]) -> Iterator[Condition]:
    """Yield whether a page draws a tag where it stands."""
    found = [
        exam.view.drawing.kept_out(template, index)
        for template in placed
        for index, one in enumerate(template.tags)
        if one.name == tag
    ]
    kept_out = [one for one in found if one is not None]
    reason = f"it stands {kept_out[0].reason}" if kept_out else ""
    if found:
        held = len(kept_out) < len(found)
        yield judged("pages draw that place", held, "" if held else reason, "move it to a place that pages draw")


def _place(exam: Examination, path: Path) -> str:
    return exam.view.relative(path)


def _has(exam: Examination, code: str) -> bool:
    _, check = examine_with(exam.view, exam.module, exam.live)
    return any(found.code == code for found in check.findings)
