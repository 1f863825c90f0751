"""Switching a Django module on and off: the edits of the host's list and of its root addresses."""

from __future__ import annotations

import ast
from pathlib import Path
from typing import Any

from ...core.brief import Brief
from ...core.changes import ChangeSet
from ...core.errors import Problem, Refused, SproutError, WrongUse
from ...edits.python import import_name, insert_item, quoted_like, remove_item
from ..exchange import Edit
from .reading.addresses import AddressFile, PatternList, Route
from .reading.entries import package_of
from .reading.modules import ModuleFiles
from .reading.overrides import Override, overridden, overriding_already, parts_that_override
from .reading.settings import ListLiteral
from .view import HostView


class Drafts:
    """The texts of files under edit: each edit sees what the ones before it made."""

    def __init__(self, view: HostView) -> None:
        self.view = view
        self._before: dict[Path, bytes] = {}
        self._after: dict[Path, str] = {}

    def text(self, path: Path) -> str:
        """Return a file's text as it stands after the edits so far; raises Refused when it does not parse."""
        if path not in self._after:
            source = self.view.project.parse(path)
            if source is None or source.source is None:
                line = source.broken.line if source and source.broken else 1
                reason = source.broken.reason if source and source.broken else "it cannot be read"
                place = f"{self.view.relative(path)}:{line}"
                raise Refused("file-broken", f"{place}: {reason}; nothing was changed.", "Mend that line first.")
            self._before[path] = source.source.content()  # as it was read, not as it may stand by now
            self._after[path] = source.source.text
        return self._after[path]

    def put(self, path: Path, text: str) -> None:
        """Set a file's text; it must still parse."""
        ast.parse(text)
        self._after[path] = text

    def changes(self, title: str) -> ChangeSet:
        """Return the edits so far as one change set."""
        changes = ChangeSet(title)
        for path, text in self._after.items():
            source = self.view.project.parse(path)
            assert source is not None and source.source is not None
            changes.add(self.view.relative(path), self._before[path], source.source.with_text(text).content())
        return changes


# -- on ----------------------------------------------------------------------------------------------------------


def switch_on(view: HostView, module: ModuleFiles, at: str | None) -> Edit:
    """Return the edits that put a module into INSTALLED_APPS and its addresses into the root url configuration.

    at -- the address under which its pages go, e.g. ``/tides``; None for the default: the root for a module whose
    brief tells its whole paths, else the module's own name

    Raises Refused, with the lines to add by hand, where the files leave a doubt.
    """
    drafts = Drafts(view)
    edit = Edit(ChangeSet(f"enable {module.name}"))
    by_hand: list[Problem] = []
    for one in (module, *parts_that_override(view, module)):
        entry = view.entry_of(one)
        if entry is not None and not entry.conditional:
            place = f"{view.relative(entry.file)}:{entry.line}"
            edit.already.append(f"{one.name} is listed already ({place})")
        elif (override := overridden(view, one)) is not None:
            by_hand += _list_in_place(view, one, override, drafts)
        else:
            by_hand += _list_module(view, one, drafts)
    if module.urls:
        if view.root_urls and view.addresses.including(module.urls, view.root_urls):
            edit.already.append(f"{module.urls} is included already")
        else:
            by_hand += _include_addresses(view, module, drafts, at)
    elif at is not None:
        raise WrongUse("no-addresses", f"--at {at}: {module.name} has no urls.py.", "Leave --at out.")
    if by_hand:
        raise Refused(
            "registration-unsure",
            f"{module.name} cannot be registered safely; nothing was changed. Add by hand what is listed.",
            f"Then run: swift-sprout settle {module.name}",
            tuple(by_hand),
        )
    edit.changes = drafts.changes(f"enable {module.name}")
    _place_blocks(view, module, edit)
    return edit


def _place_blocks(view: HostView, module: ModuleFiles, edit: Edit) -> None:
    """Put the module's blocks where its brief says; a place that is not there is told, and stops nothing."""
    brief = brief_of(module)
    if brief is None or not brief.placements:
        return
    from .placing import replace

    try:
        for change in replace(view, module, None, brief).changes:
            edit.changes.add(*change)
    except WrongUse as error:
        edit.already.append(f"{error.sentence} {error.remedy}")


def brief_of(module: ModuleFiles) -> Brief | None:
    """Return the brief of a module; None when it has none, or one that cannot be read."""
    return None if isinstance(module.read, SproutError) else module.read


def _list_module(view: HostView, module: ModuleFiles, drafts: Drafts) -> list[Problem]:
    wanted = _entry_for(view, module)
    line = f'"{wanted}",'
    literal, doubt = _best_list(view)
    if literal is None:
        where = view.relative(view.settings.path) if view.settings and view.settings.path else "the settings file"
        return [Problem(where, f"{doubt}; add to INSTALLED_APPS the line", line)]
    text = drafts.text(literal.file)
    elements = [element for element in literal.node.elts if isinstance(element, ast.Constant)]
    neighbour = ast.get_source_segment(text, elements[-1]) or '"' if elements else '"'
    drafts.put(literal.file, insert_item(text, literal.node, quoted_like(neighbour, wanted)))
    return []


def _list_in_place(view: HostView, module: ModuleFiles, override: Override, drafts: Drafts) -> list[Problem]:
    """List a module in the place of the host's own app that it overrides.

    Raises Refused when another module of the host overrides that app: only one can.
    """
    assert module.config is not None
    other = overriding_already(view, module, override)
    if other is not None:
        entry = view.entry_of(other)
        place = f"{view.relative(entry.file)}:{entry.line}" if entry else view.relative(other.folder)
        raise Refused(
            "overridden-already",
            f"{module.name} overrides the host's app {override.app}, as {other.name} does already ({place}); "
            "nothing was changed.",
            f"Only one module can: have {module.name} extend the classes of {other.name}, or put both into one.",
        )
    return _exchange(view, override.config, f"{module.name}.apps.{module.config.name}", drafts)


def _exchange(view: HostView, old: str, new: str, drafts: Drafts) -> list[Problem]:
    """Write another entry in the place of one of the host's list; ``old`` counts by its package."""
    value = view.settings.get("INSTALLED_APPS") if view.settings else None
    package = package_of(old)
    for literal in value.literals if value else []:
        inside = literal.file.resolve().is_relative_to(view.root.resolve())
        for index, element in enumerate(literal.node.elts):
            text = str(element.value) if isinstance(element, ast.Constant) else ""
            if package_of(text) != package or not inside:
                continue
            draft = drafts.text(literal.file)
            fresh = _same_sequence(draft, literal.node)
            if fresh is not None:
                spelled = ast.get_source_segment(draft, fresh.elts[index]) or '"'
                with_item = insert_item(draft, fresh, quoted_like(spelled, new), before=index)
                again = _same_sequence(with_item, literal.node)
                assert again is not None
                drafts.put(literal.file, remove_item(with_item, again, index + 1))
                return []
    where = view.relative(view.settings.path) if view.settings and view.settings.path else "the settings file"
    return [Problem(where, f"write in the place of {package}", f'"{new}",')]


def _entry_for(view: HostView, module: ModuleFiles) -> str:
    """Return how a module is listed: by its package, or by its config class where the host would take none by itself.

    Where ``apps.py`` imports a config class to extend it, the host finds two and takes neither (Django 5.2).
    """
    config = module.config
    if config is None or config.is_default or len(view.data.raw["include"]) == 1:
        return module.name
    bases = {base.rpartition(".")[2] for base in config.bases}
    own = {name for way in view.data.raw["include"] for name in way.get("config", ())}
    return f"{module.name}.apps.{config.name}" if bases & own else module.name


def _best_list(view: HostView) -> tuple[ListLiteral | None, str]:
    """Choose the written-out list that a module of the host belongs to: the one with most of the host's own modules.

    Returns None and the doubt where there is none.
    """
    settings = view.settings
    if settings is None:
        return None, "manage.py does not say in plain text which settings are used"
    if settings.path is None:
        return None, f"the settings module {settings.module} is not among the host's files"
    if settings.broken:
        path, line, reason = settings.broken[0]
        return None, f"{view.relative(path)}:{line} does not parse ({reason})"
    value = settings.get("INSTALLED_APPS")
    if value is None:
        return None, "INSTALLED_APPS is not set in a form that reading can tell"
    own = {module.name for module in view.modules}
    best: tuple[int, int, ListLiteral] | None = None
    for order, literal in enumerate(value.literals):
        if literal.conditional or not literal.file.resolve().is_relative_to(view.root.resolve()):
            continue
        texts = [element.value for element in literal.node.elts if isinstance(element, ast.Constant)]
        if not literal.name and not texts:
            continue
        count = sum(1 for text in texts if text in own or package_of(str(text)) in own)
        if best is None or count > best[0]:
            best = (count, order, literal)
    if best is None:
        return None, "INSTALLED_APPS is made in a way that reading cannot tell (a call, a condition or another file)"
    return best[2], ""


def _include_addresses(view: HostView, module: ModuleFiles, drafts: Drafts, at: str | None) -> list[Problem]:
    prefix = _prefix(module, at)
    wanted = _inclusion(view, module)
    line = wanted["line"].format(prefix=prefix, urls=module.urls, label=module.label) + ","
    if not view.root_urls:
        return [Problem("the settings", "ROOT_URLCONF cannot be told; add to the root urlpatterns the line", line)]
    conf = view.addresses.file(view.root_urls)
    if conf is None:
        return [Problem(view.root_urls, "is not among the host's files or does not parse; add the line", line)]
    target = next((one for one in reversed(conf.lists) if not one.prefixed), None)
    if target is None:
        return [Problem(view.relative(conf.path), "urlpatterns is no list written out there; add the line", line)]
    text = drafts.text(conf.path)
    with_item = insert_item(text, target.node, line.rstrip(","), before=_before_catch_all(view, conf, target))
    for name in wanted["imports"]:
        with_item = import_name(with_item, *name.rsplit(".", 1))
    drafts.put(conf.path, with_item)
    return []


def _inclusion(view: HostView, module: ModuleFiles) -> dict[str, Any]:
    """Return how the root addresses take in a module: the way of its config class, where the kit knows one."""
    ways: list[dict[str, Any]] = view.data.raw["include"]
    bases = {base.rpartition(".")[2] for base in module.config.bases} if module.config else set()
    return next(way for way in ways if not way.get("config") or bases & set(way["config"]))


def _prefix(module: ModuleFiles, at: str | None) -> str:
    if at is not None:
        plain = at.strip("/")
        return f"{plain}/" if plain else ""
    if module.tells_paths:
        return ""
    return module.label.replace("_", "-") + "/"


def _before_catch_all(view: HostView, conf: AddressFile, target: PatternList) -> int | None:
    for index, element in enumerate(target.node.elts):
        if any(route.node is element and view.catches_all(route) for route in conf.routes):
            return index
    return None


# -- off ---------------------------------------------------------------------------------------------------------


def switch_off(view: HostView, module: ModuleFiles) -> Edit:
    """Return the edits that take a module out of the list and the root addresses; files and data stay.

    Raises Refused when another enabled module needs it, or an entry stands where it cannot be taken out safely.
    """
    needing = [
        other.name
        for other in view.modules
        if other.name != module.name
        and view.entry_of(other) is not None
        and module.label in (other.brief.get("module", {}).get("needs") or [])
    ]
    if needing:
        raise Refused(
            "needed-by-others",
            f"{module.name} is needed by {', '.join(needing)}; nothing was changed.",
            f"First run: {'; '.join(f'swift-sprout disable {name}' for name in needing)}",
        )
    drafts = Drafts(view)
    edit = Edit(ChangeSet(f"disable {module.name}"))
    by_hand: list[Problem] = []
    for one in (module, *parts_that_override(view, module)):
        override = overridden(view, one)
        if override is None:
            by_hand += _unlist(view, one, drafts)
        elif view.entry_of(one) is not None:
            by_hand += _exchange(view, one.name, override.config, drafts)
    routes = view.addresses.including(module.urls, view.root_urls) if module.urls and view.root_urls else []
    by_file: dict[Path, list[Route]] = {}
    for route in routes:
        by_file.setdefault(route.file, []).append(route)
    for path, found in by_file.items():
        for route in sorted(found, key=lambda one: -one.line):
            by_hand += _exclude(view, path, route, drafts)
    if by_hand:
        raise Refused(
            "registration-unsure",
            f"{module.name} cannot be taken out safely; nothing was changed. Take out by hand what is listed.",
            "Then restart the host.",
            tuple(by_hand),
        )
    if not drafts.changes("").changes:
        edit.already.append(f"{module.name} is neither listed nor included")
    edit.changes = drafts.changes(f"disable {module.name}")
    if module.libraries:
        from .placing import cleared

        for change in cleared(view, module).changes:
            edit.changes.add(*change)
    return edit


def _unlist(view: HostView, module: ModuleFiles, drafts: Drafts) -> list[Problem]:
    value = view.settings.get("INSTALLED_APPS") if view.settings else None
    doubts: list[Problem] = []
    names = {
        entry.value
        for entry in view.listed
        if entry.value == module.name or entry.value.startswith(f"{module.name}.apps.")
    }
    done: set[tuple[Path, int]] = set()
    for literal in reversed(value.literals if value else []):
        for index in reversed(range(len(literal.node.elts))):
            element = literal.node.elts[index]
            if not (isinstance(element, ast.Constant) and element.value in names):
                continue
            text = drafts.text(literal.file)
            fresh = _same_sequence(text, literal.node)
            if fresh is None:
                doubts.append(
                    Problem(f"{view.relative(literal.file)}:{element.lineno}", "take out the entry", str(element.value))
                )
                continue
            drafts.put(literal.file, remove_item(text, fresh, index))
            done.add((literal.file, element.lineno))
    for entry in view.listed:
        if entry.value in names and (entry.file, entry.line) not in done:
            doubts.append(Problem(f"{view.relative(entry.file)}:{entry.line}", "take out the entry", str(entry.value)))
    return doubts


def _exclude(view: HostView, path: Path, route: Route, drafts: Drafts) -> list[Problem]:
    doubt = [Problem(f"{view.relative(path)}:{route.line}", "take out the line that includes", route.includes)]
    if route.holder is None or route.node is None:
        return doubt
    text = drafts.text(path)
    fresh = _same_sequence(text, route.holder.node)
    if fresh is None:
        return doubt
    for index, element in enumerate(fresh.elts):
        if (element.lineno, element.col_offset) == (route.node.lineno, route.node.col_offset):
            drafts.put(path, remove_item(text, fresh, index))
            return []
    return doubt


def _same_sequence(text: str, node: ast.List | ast.Tuple) -> ast.List | ast.Tuple | None:
    """Return the list of an edited text that begins where the one of the unedited text did."""
    for found in ast.walk(ast.parse(text)):
        if isinstance(found, ast.List | ast.Tuple) and (found.lineno, found.col_offset) == (
            node.lineno,
            node.col_offset,
        ):
            return found
    return None
