"""Switching a Django module on and off: the edits of the host's list and of its root addresses."""

from __future__ import annotations

import ast
from collections.abc import Callable
from pathlib import Path

from ....core.brief import Brief
from ....core.changes import ChangeSet
from ....core.errors import Problem, Refused, SproutError, WrongUse
from ....edits.carrying import NotCarried
from ....edits.python import (
    Holder,
    import_name,
    insert_item,
    items_of,
    quoted_like,
    remove_item,
    same_sequence,
    spelled_as,
)
from ....edits.source import SourceText
from ...contract.exchange import Edit
from .facts import Inclusion, django
from .including import place_for
from .reading.addresses import Route
from .reading.entries import package_of
from .reading.modules import ModuleFiles
from .reading.overrides import Override, overridden, overriding_already, parts_that_override
from .reading.settings import UNKNOWN, ListLiteral
from .view import HostView


class Drafts:
    """The edits of files on their way: noted by their places in the files as they stand, and made at the end.

    They are made from the end of each file to its beginning, so that no edit moves what another one names.
    """

    def __init__(self, view: HostView) -> None:
        self.view = view
        self._edits: dict[Path, list[tuple[Holder, int, Callable[[str], str]]]] = {}
        self._imports: dict[Path, list[str]] = {}

    def source(self, path: Path) -> SourceText:
        """Return a file as it stands; raises Refused when it does not parse."""
        source = self.view.project.parse(path)
        if source is None or source.source is None:
            line = source.broken.line if source and source.broken else 1
            reason = source.broken.reason if source and source.broken else "it cannot be read"
            place = f"{self.view.relative(path)}:{line}"
            raise Refused("file-broken", f"{place}: {reason}; nothing was changed.", "Fix that line first.")
        return source.source

    def insert(self, path: Path, sequence: Holder, item: str, before: int | None = None) -> None:
        """Put an item into a list of a file."""
        at = len(items_of(sequence)) if before is None else before
        self._note(path, sequence, at, lambda text: insert_item(text, sequence, item, before=before))

    def remove(self, path: Path, sequence: Holder, index: int) -> None:
        """Take an element out of a list of a file."""
        self._note(path, sequence, index, lambda text: remove_item(text, sequence, index))

    def exchange(self, path: Path, sequence: Holder, index: int, item: str) -> None:
        """Put an item in the place of an element of a list of a file."""

        def edit(text: str) -> str:
            with_item = insert_item(text, sequence, item, before=index)
            same = same_sequence(ast.parse(with_item), sequence)
            assert same is not None
            return remove_item(with_item, same, index + 1)

        self._note(path, sequence, index, edit)

    def import_name(self, path: Path, dotted: str) -> None:
        """Make a name known in a file."""
        self._imports.setdefault(path, []).append(dotted)

    def _note(self, path: Path, sequence: Holder, index: int, edit: Callable[[str], str]) -> None:
        self.source(path)
        self._edits.setdefault(path, []).append((sequence, index, edit))

    def changes(self, title: str) -> ChangeSet:
        """Make the edits, and return them as one change set; raises Refused for a list that cannot be edited safely."""
        changes = ChangeSet(title)
        for path, edits in self._edits.items():
            source = self.source(path)
            text = source.text
            try:
                for _, _, edit in sorted(
                    edits, key=lambda one: (one[0].lineno, one[0].col_offset, one[1]), reverse=True
                ):
                    text = edit(text)
                for dotted in self._imports.get(path, ()):
                    text = import_name(text, *dotted.rsplit(".", 1))
                changed = source.with_text(text).content()
            except NotCarried as error:
                raise self._unsafe(path, error.line, error.reason) from None
            except UnicodeEncodeError:
                raise self._unsafe(path, 1, f"its encoding {source.encoding} has not all letters") from None
            changes.add(self.view.relative(path), source.content(), changed)
        return changes

    def _unsafe(self, path: Path, line: int, reason: str) -> Refused:
        place = f"{self.view.relative(path)}:{line}"
        return Refused("registration-unsure", f"{place}: {reason}; nothing was changed.", "Edit that place by hand.")


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
        there = view.addresses.including(module.urls, view.root_urls) if view.root_urls else []
        if there:
            place = f"{view.relative(there[0].file)}:{there[0].line}"
            only = ", in some cases only" if all(route.conditional for route in there) else ""
            edit.already.append(f"{module.urls} is included already ({place}{only})")
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
    except (WrongUse, Refused) as error:
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
    elements = [element for element in literal.node.elts if isinstance(element, ast.Constant)]
    neighbour = spelled_as(drafts.source(literal.file).text, elements[-1]) if elements else '"'
    drafts.insert(literal.file, literal.node, quoted_like(neighbour, wanted))
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
            spelled = spelled_as(drafts.source(literal.file).text, element)
            drafts.exchange(literal.file, literal.node, index, quoted_like(spelled, new))
            return []
    where = view.relative(view.settings.path) if view.settings and view.settings.path else "the settings file"
    return [Problem(where, f"write in the place of {package}", f'"{new}",')]


def _entry_for(view: HostView, module: ModuleFiles) -> str:
    """Return how a module is listed: by its package, or by its config class where the host would take none by itself.

    Where ``apps.py`` imports a config class to extend it, the host finds two and takes neither (Django 5.2).
    """
    config = module.config
    if config is None or config.is_default or len(django(view.data).include) == 1:
        return module.name
    bases = {base.rpartition(".")[2] for base in config.bases}
    own = {name for way in django(view.data).include for name in way.config}
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
    for_all = settings.for_all
    literals = [one for one in value.literals if one.file in for_all] or value.literals
    for order, literal in enumerate(literals):
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
    line = wanted.line.format(prefix=prefix, urls=module.urls, label=module.label) + ","
    if not view.root_urls:
        return [Problem("the settings", "ROOT_URLCONF cannot be told; add to the root urlpatterns the line", line)]
    conf = view.addresses.file(view.root_urls)
    if conf is None:
        return [Problem(view.root_urls, "is not among the host's files or does not parse; add the line", line)]
    place = place_for(view, conf, module, prefix)
    if place is None:
        doubt = "no list of urlpatterns is written out there that always counts and that is reached; add the line"
        return [Problem(view.relative(conf.path), doubt, line)]
    drafts.insert(conf.path, place.holder.node, line.rstrip(","), place.before)
    for name in wanted.imports:
        drafts.import_name(conf.path, name)
    return []


def _inclusion(view: HostView, module: ModuleFiles) -> Inclusion:
    """Return how the root addresses take in a module: the way of its config class, where the kit knows one."""
    bases = {base.rpartition(".")[2] for base in module.config.bases} if module.config else set()
    return next(way for way in django(view.data).include if not way.config or bases & set(way.config))


def _prefix(module: ModuleFiles, at: str | None) -> str:
    if at is not None:
        plain = at.strip("/")
        return f"{plain}/" if plain else ""
    if module.tells_paths:
        return ""
    return module.label.replace("_", "-") + "/"


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
        for route in found:
            by_hand += _exclude(view, path, route, drafts)
    if by_hand:
        raise Refused(
            "registration-unsure",
            f"{module.name} cannot be taken out safely; nothing was changed. Take out by hand what is listed.",
            "Then restart the host.",
            tuple(by_hand),
        )
    edit.changes = drafts.changes(f"disable {module.name}")
    edit.unsure = _what_is_not_told(view, module)
    if not edit.changes:
        edit.already.append(f"{module.name} is neither listed nor included")
    if module.libraries:
        from .placing import cleared

        for change in cleared(view, module).changes:
            edit.changes.add(*change)
    return edit


def _unlist(view: HostView, module: ModuleFiles, drafts: Drafts) -> list[Problem]:
    """Take every entry of a module out of the host's list; returns those that stand where they cannot be taken out."""
    value = view.settings.get("INSTALLED_APPS") if view.settings else None
    names = {
        entry.value
        for entry in view.listed
        if entry.value == module.name or entry.value.startswith(f"{module.name}.apps.")
    }
    done: set[tuple[Path, int]] = set()
    for literal in value.literals if value else ():
        for index, element in enumerate(literal.node.elts):
            inside = literal.file.resolve().is_relative_to(view.root.resolve())
            if inside and isinstance(element, ast.Constant) and element.value in names:
                drafts.remove(literal.file, literal.node, index)
                done.add((literal.file, element.lineno))
    return [
        Problem(f"{view.relative(entry.file)}:{entry.line}", "take out the entry", str(entry.value))
        for entry in view.listed
        if entry.value in names and (entry.file, entry.line) not in done
    ]


def _what_is_not_told(view: HostView, module: ModuleFiles) -> list[Problem]:
    """Return the places where the files do not tell whether a module is listed or included."""
    found: list[Problem] = []
    settings = view.settings
    value = settings.get("INSTALLED_APPS") if settings else None
    if settings is None or settings.path is None:
        found.append(Problem("manage.py", "which settings are used cannot be told", f"take out {module.name}"))
    elif value is None or value.plain is UNKNOWN or not value.sure:
        place = f"{view.relative(value.file)}:{value.line}" if value is not None else view.relative(settings.path)
        found.append(
            Problem(place, "INSTALLED_APPS is made in a way that reading cannot tell", f"take out {module.name}")
        )
    if module.urls:
        conf = view.addresses.file(view.root_urls) if view.root_urls else None
        if conf is None or not conf.sure:
            place = view.relative(conf.path) if conf is not None else (view.root_urls or "the settings")
            found.append(
                Problem(place, "the addresses are made in a way that reading cannot tell", f"take out {module.urls}")
            )
    return found


def _exclude(view: HostView, path: Path, route: Route, drafts: Drafts) -> list[Problem]:
    if route.holder is not None and route.node is not None and path.resolve().is_relative_to(view.root.resolve()):
        for index, element in enumerate(items_of(route.holder.node)):
            if element is route.node:
                drafts.remove(path, route.holder.node, index)
                return []
    return [Problem(f"{view.relative(path)}:{route.line}", "take out the line that includes", route.includes)]
