"""From a brief to the files of a Django module, and the change set that makes them."""

from __future__ import annotations

import json
from collections.abc import Mapping
from functools import partial
from typing import TYPE_CHECKING, Any

from .....core.brief import BRIEF_FILE, Brief
from .....core.brieftext import brief_text
from .....core.changes import ChangeSet
from .....core.errors import Refused
from .....core.modulefolders import ModuleFolder
from ....contract.kitdata import KitData
from ....python.formatting import formatted
from ....python.naming import check_inner_names
from ....shared.generating import files_of, templates_of
from ....shared.making import free_folder, making
from ....shared.openapi import described
from ....shared.rendering import python_docstring
from ..facts import django
from ..reading.bringing import migration_that_brings
from ..reading.layouts import site_layout
from ..view import HostView
from . import migrations
from .endpoints import endpoint_values
from .own_tests import test_imports
from .pages import ordered_routes, page_values, refuse_without_owner, view_imports
from .records import further_imports, model_imports, preferences_values, record_values, sample_imports
from .rights import group_values
from .shared import PLAIN, Further, Site, Values, lines, uses


def compose(view: HostView, data: KitData, brief: Brief, place: ModuleFolder, more: Further = PLAIN) -> ChangeSet:
    """Return the change set that makes a module; raises Refused when something stands in its place already.

    more -- what a kit that builds on this one adds
    """
    label = brief.name.snake
    folder = free_folder(view.root, place, label)
    refuse_taken_addresses(view, brief)
    refuse_without_owner(brief)
    dotted = f"{place.prefix}.{label}" if place.prefix else label
    site = Site(dotted, site_layout(view), rest=has_rest(view))
    files = generate(data, brief, site, None, more)
    first = migrations.initial(templates_of(data), data, brief, partial(migration_that_brings, view))
    further = {f"migrations/{first.name}.py": first.text.encode("utf-8")} if first is not None else {}
    return making(data, label, folder, files, further)


def refuse_taken_addresses(view: HostView, brief: Brief, own: str = "") -> None:
    """Raise Refused when an address of the brief is answered already; those of the module ``own`` do not count."""
    if not view.root_urls or not (brief.pages or brief.endpoints):
        return
    taken = {one.path.rstrip("/"): one for one in view.addresses.walk(view.root_urls)}
    for path in [*(page.path for page in brief.pages), *(one.path for one in brief.endpoints)]:
        other = taken.get(path.rstrip("/"))
        if other is not None and not (own and other.view.startswith(f"{own}.")):
            place = f"{view.relative(other.route.file)}:{other.route.line}"
            raise Refused(
                "address-taken",
                f"{path} is answered already by {other.view or 'another controller'} ({place}).",
                "Give the page another path.",
            )


if TYPE_CHECKING:
    from ..reading.modules import ModuleFiles


def generate(
    data: KitData,
    brief: Brief,
    site: Site,
    last: tuple[Brief, Mapping[str, bytes]] | None = None,
    more: Further = PLAIN,
) -> dict[str, bytes]:
    """Return every file of a module but its migrations: path below the module's folder, and content.

    last -- another brief with all its files: those whose values are the same are taken from there
    more -- what a kit that builds on this one adds

    The same brief, site and kit give the same bytes. Raises WrongUse for what the host cannot carry.
    """
    check_inner_names(data, brief)
    values = values_of(data, brief, site) | more.values(data, brief, site)
    before = values_of(data, last[0], site) | more.values(data, last[0], site) if last is not None else None
    files = {BRIEF_FILE: brief_text(brief).encode("utf-8")}
    files |= files_of(data, brief.name.snake, values, (before, last[1]) if before is not None and last else None)
    if brief.endpoints:
        error = "detail" if site.rest else "error"
        files["openapi.json"] = described(brief, "/", protects=True, error=error).encode("utf-8")
    if values["samples"]:
        from ....shared.sampling import sample_data

        files["sample_data.json"] = sample_data(brief).encode("utf-8")
    if values["placed_there"]:
        from .pagetypes import placed_pages

        text = json.dumps(placed_pages(brief), indent=2, ensure_ascii=False) + "\n"
        files["page_tree.json"] = text.encode("utf-8")
    files |= more.files(data, brief, values)
    if brief.translations:
        from .contents import catalogue, locale_folder, visible_texts

        texts = visible_texts(files.items())
        for translation in brief.translations:
            source, compiled = catalogue(brief, translation, texts)
            files[f"{locale_folder(translation)}/django.po"] = source
            files[f"{locale_folder(translation)}/django.mo"] = compiled
    return files


def site_of(view: HostView, module: ModuleFiles) -> Site:
    """Return what the files of a module that is there must know of its site."""
    conf = view.addresses.file(module.urls) if module.urls else None
    named = conf is None or bool(conf.app_name)
    rest = REST in _text(module, "endpoints.py") if module.has("endpoints.py") else has_rest(view)
    return Site(module.name, site_layout(view), named, view.mount_of(module), not module.brief, rest)


REST = "rest_framework"


def has_rest(view: HostView) -> bool:
    """True where the host lists Django REST framework."""
    return any(view.app_of(entry.value) == REST for entry in view.listed)


def _text(module: ModuleFiles, path: str) -> str:
    return (module.folder / path).read_text("utf-8", "replace")


def migration_files(
    view: HostView,
    data: KitData,
    module: ModuleFiles,
    before: Brief,
    after: Brief,
    changed: Mapping[str, bytes],
) -> dict[str, bytes]:
    """Return the migrations that lead from one brief of a module to another.

    Raises Refused when an address is taken, or a new record has the name of a class that a person wrote.
    """
    known = {page.path for page in before.pages} | {one.path for one in before.endpoints}
    fresh = after._replace(
        pages=tuple(page for page in after.pages if page.path not in known),
        endpoints=tuple(one for one in after.endpoints if one.path not in known),
    )
    refuse_taken_addresses(view, fresh, module.name)
    refuse_without_owner(fresh)
    there = migrations.names_in(module.folder)
    brings = partial(migration_that_brings, view)
    standing = {
        path.relative_to(module.folder).as_posix(): path.read_bytes()
        for path in (module.folder / "models.py", *sorted((module.folder / "models").glob("*.py")))
        if path.is_file()
    }
    now, then = _models_of(standing), _models_of({**standing, **changed})
    made = migrations.following(templates_of(data), data, before, after, there, now, then, brings)
    if made is None:
        return {}
    files = formatted({f"migrations/{made.name}.py": made.text.encode("utf-8")}, view.root)
    if not module.has("migrations/__init__.py") and "migrations/__init__.py" not in changed:
        files["migrations/__init__.py"] = b""
    return files


def _models_of(files: Mapping[str, bytes]) -> bytes:
    """Return the files of models, one behind the other."""
    return b"\n".join(text for path, text in files.items() if path == "models.py" or path.startswith("models/"))


def values_of(data: KitData, brief: Brief, site: Site) -> Values:
    """Return all values that the templates of a module take."""
    label = brief.name.snake
    records = [record_values(data, brief, record) for record in brief.records]
    by_name = {record["record"]: record for record in records}
    pages = page_values(brief, by_name, site)
    for record in records if site.by_hand else ():
        record["looked_up"] = ""  # by screens that may not say how
    for page in pages if not site.by_hand else ():
        if page["has_one"] and page["key"] == "pk":
            by_name[page["record"]]["absolute_url"] = by_name[page["record"]]["absolute_url"] or page["one_reverse"]
    values = {
        "title": brief.name.title,
        "label": label,
        "space": site.space(label),
        "dotted": site.dotted,
        "camel": brief.name.camel,
        "version": brief.version,
        "author": brief.author,
        "licence": brief.licence,
        "module_docstring": python_docstring(
            f"{brief.name.title}: {brief.summary}" if brief.summary else brief.name.title
        ),
        "records": records,
        "tables": bool(records or brief.settings or brief.page_types),
        **_page_types(data, brief),
        "pages": pages,
        "plain_pages": [page for page in pages if page["is_plain"]],
        "list_pages": [page for page in pages if page["has_list"]],
        "one_pages": [page for page in pages if page["has_one"]],
        "form_pages": [page for page in pages if page["has_form"]],
        "site_layout": site.layout.template,
        "site_block": site.layout.block,
        "site_title": site.layout.title,
        "site_title_stays": site.layout.title_stays,
        "site_head": site.layout.head if any(one.sort == "css" for one in brief.assets) else "",
        "site_scripts": site.layout.scripts if any(one.sort == "js" for one in brief.assets) else "",
        "model_imports": lines(model_imports(data, records + _model_tables(data, brief))),
        "view_imports": lines(view_imports(pages)),
        "sample_imports": lines(sample_imports(records)),
        "samples_of_others": uses(records, "sample", "a_record("),
        **_preferences(data, brief),
        **_placed(brief, by_name, site),
        **_programmed(data, brief, by_name, pages, records, site),
    }
    #  a list cannot be asked for in a template without repeating what stands inside
    for key in (
        "listeners",
        "groups",
        "endpoints",
        "assets",
        "administration_blocks",
        "blocks",
        "commands",
        "services",
    ):
        values[f"{key}_there"] = bool(values.get(key))
    values["languages_there"] = bool(values["languages"])
    return values


def _page_types(data: KitData, brief: Brief) -> Values:
    if not brief.page_types:
        return {"page_types": [], "page_type_names": "", "placed_there": False}
    from .pagetypes import page_type_imports, page_type_values, placed_pages

    types = page_type_values(data, brief)
    return {
        "page_types": types,
        "page_type_names": ", ".join(sorted(one["page_type"] for one in types)),
        "page_type_imports": lines(page_type_imports(types)),
        "page_type_further": lines(further_imports(data, types, "model")),
        "placed_there": bool(placed_pages(brief)),
    }


def _model_tables(data: KitData, brief: Brief) -> list[Values]:
    """Return the table of the settings where it stands among the other models."""
    found: list[Values] = [] if django(data).settings is not None else _preferences(data, brief)["preference_table"]
    return found


def _preferences(data: KitData, brief: Brief) -> Values:
    if not brief.settings:
        empty: Values = {"preferences": [], "preference_table": [], "preferences_title": "", "settings": False}
        return empty | {"settings_table": False, "settings_elsewhere": "", "settings_imports": []}
    values = preferences_values(data, brief)
    table: list[Values] = [{"fields": values["preferences"]}]
    own = django(data).settings
    elsewhere = own.file if own is not None else ""
    return {
        **values,
        "preference_table": table,
        "settings": True,
        "settings_table": not elsewhere,
        "settings_elsewhere": elsewhere,
        "settings_imports": lines(model_imports(data, table)),
    }


def _placed(brief: Brief, records: dict[str, Values], site: Site) -> Values:
    label = brief.name.snake
    values: Values = {
        "menu": bool(brief.menu),
        "menu_template": f"{label}/menu.html",
        "tag_libraries": bool(brief.menu or brief.blocks),
        "groups": [],
        "blocks": [],
        "menu_lines": [],
        "administration": False,
        "block_models": False,
        "assets": [
            {
                "asset": one.file,
                "asset_path": f"{label}/{one.file}",
                "asset_snake": one.file.replace(".", "_").replace("-", "_"),
            }
            for one in brief.assets
        ],
        "style_sheets": [{"asset": one.file} for one in brief.assets if one.sort == "css"],
        "scripts": [{"asset": one.file} for one in brief.assets if one.sort == "js"],
        "pictures": [{"asset": one.file} for one in brief.assets if one.sort == "svg"],
    }
    if brief.groups:
        values["groups"] = group_values(brief)
    if brief.menu or brief.blocks:
        from .placing import administration_values, block_values, menu_lines

        values["menu_lines"] = lines(menu_lines(brief, site.space(label)))
        values["blocks"] = block_values(brief, records)
        values["block_models"] = any(block["block_shows"] for block in values["blocks"])
        values |= administration_values(brief)
    return values


def _programmed(
    data: KitData, brief: Brief, by_name: dict[str, Values], pages: list[Values], records: list[Values], site: Site
) -> Values:
    values: Values = {
        "commands": [],
        "services": [],
        "listeners": [],
        "endpoints": [],
        "plain_endpoints": False,
        "rest_endpoints": False,
        "samples": any(brief.record(one.record) for one in brief.samples),
        "languages": [],
        "console": bool(brief.commands or brief.samples or any(one.placed for one in brief.page_types)),
        "controllers": ", ".join((["endpoints"] if brief.endpoints else []) + (["views"] if pages else [])),
        "has_addresses": bool(pages or brief.endpoints),
        "has_pages": bool(pages),
        "ready": bool(brief.listeners or brief.groups),
    }
    if brief.commands:
        from .programs import command_values, needs_argparse

        wanting = needs_argparse(brief)
        values["commands"] = [
            {**one, "wants_argparse": one["command"] in wanting} for one in command_values(brief, by_name)
        ]
    if brief.services:
        from .programs import service_values

        values["services"], imports = service_values(brief)
        values["service_imports"] = lines(imports)
    if brief.listeners:
        from .programs import listener_values

        values["listeners"], imports = listener_values(data, brief)
        values["listener_imports"] = lines(imports)
    if brief.endpoints:
        values["endpoints"] = endpoint_values(brief, by_name, site)
        seen: dict[str, Any] = {one["record"]: one for one in values["endpoints"]}
        values["endpoint_records"] = list(seen.values())
        values["rest_endpoints" if site.rest else "plain_endpoints"] = True
        values["endpoints_write"] = any(one["creates"] or one["replaces"] for one in values["endpoints"])
    if brief.translations:
        values["languages"] = [
            {
                "language": one.language,
                "language_snake": one.language.replace("-", "_"),
                "example": one.texts[0][0],
                "translated": one.texts[0][1],
            }
            for one in brief.translations
            if one.texts
        ]
    values["endpoints_delete"] = any(one["deletes"] for one in values["endpoints"])
    values["routes"] = ordered_routes(pages)
    values["endpoint_routes"] = [route for one in values["endpoints"] for route in one["endpoint_routes"]]
    values["test_imports"] = lines(
        test_imports(brief, records, pages, values["endpoints"], bool(_model_tables(data, brief)))
    )
    return values
