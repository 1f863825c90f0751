"""From a brief to the files of a trytond module, and the change set that makes them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

from .....core.brief import BRIEF_FILE, Brief
from .....core.brieftext import brief_text
from .....core.changes import ChangeSet
from ....contract.kitdata import KitData
from ....python.naming import check_inner_names
from ....shared.generating import files_of
from ....shared.making import free_folder, making
from ....shared.openapi import described
from ....shared.rendering import python_docstring
from .own_tests import own_test_values
from .pages import endpoint_values, page_routes, page_values, route_imports
from .placing import block_values, entry_values, placement_values
from .programs import job_values, listener_values, service_values
from .records import field_values, record_values, target_of
from .shared import Values, lines

if TYPE_CHECKING:
    from pathlib import Path

    from .....core.modulefolders import ModuleFolder

_ASSET_TYPES = {"css": "text/css", "js": "text/javascript", "svg": "image/svg+xml"}


#  gives a brief in which records of other modules are called as the host does
Naming = Callable[[Brief], Brief]


def _as_said(brief: Brief) -> Brief:
    return brief


def compose(root: Path, data: KitData, brief: Brief, place: ModuleFolder, naming: Naming = _as_said) -> ChangeSet:
    """Return the change set that makes a module; raises Refused when something stands in its place already."""
    label = brief.name.snake
    folder = free_folder(root, place, label)
    return making(data, label, folder, generate(data, brief, naming=naming), {})


def generate(
    data: KitData,
    brief: Brief,
    last: tuple[Brief, Mapping[str, bytes]] | None = None,
    menu_root: str = "",
    naming: Naming = _as_said,
) -> dict[str, bytes]:
    """Return every file of a module: path below its folder, and content. Raises WrongUse for what it cannot carry.

    last      -- another brief with all its files: those whose values are the same are taken from there
    menu_root -- the module's entry in the host's menu, where it was written by hand; empty for one of its own
    """
    check_inner_names(data, brief)
    values = values_of(data, naming(brief), menu_root)
    before = (values_of(data, naming(last[0]), menu_root), last[1]) if last is not None else None
    files = {BRIEF_FILE: brief_text(brief).encode("utf-8")}
    files |= files_of(data, brief.name.snake, values, before)
    if brief.endpoints:
        files["openapi.json"] = described(brief, below=f"/{{database}}/r/{brief.name.snake}").encode("utf-8")
    if brief.samples:
        from ....shared.sampling import sample_data

        files["sample_data.json"] = sample_data(brief).encode("utf-8")
    if brief.translations:
        from .contents import catalogue, catalogue_path, texts_of

        texts = texts_of(brief, values)
        for translation in brief.translations:
            files[catalogue_path(translation)] = catalogue(brief, translation, texts)
    return files


def values_of(data: KitData, brief: Brief, menu_root: str = "") -> Values:
    """Return all values that the templates of a module take; ``menu_root`` as in ``generate``."""
    label = brief.name.snake
    records = [record_values(data, brief, record, number) for number, record in enumerate(brief.records)]
    by_name = {record["record"]: record for record in records}
    pages = page_values(brief, by_name)
    endpoints, endpoint_routes = endpoint_values(brief, by_name)
    has_routes = bool(brief.pages or brief.endpoints or brief.assets or brief.blocks)
    has_forms = any(page["has_form"] for page in pages) or any(one["writes"] for one in endpoints)
    front_page = has_routes and not any("/" in (page.path, *page.also) for page in brief.pages)
    values: Values = {
        "title": brief.name.title,
        "label": label,
        "label_text": label,
        "name_start": f"{label}.",
        "camel": brief.name.camel,
        "version": brief.version,
        "router_docstring": python_docstring(f"The pages of {brief.name.title}."),
        "module_docstring": python_docstring(
            f"{brief.name.title}: {brief.summary}" if brief.summary else brief.name.title
        ),
        "records": records,
        "pages": pages,
        "plain_pages": [page for page in pages if page["is_plain"]],
        "list_pages": [page for page in pages if page["has_list"]],
        "one_pages": [page for page in pages if page["has_one"]],
        "form_pages": [page for page in pages if page["has_form"]],
        "endpoints": endpoints,
        "has_endpoints": bool(endpoints),
        "endpoints_write": any(one["writes"] for one in endpoints),
        "has_routes": has_routes,
        "has_forms": has_forms,
        "front_page": front_page,
        "page_links": [
            {
                "linked": page["list_route"] if page["has_list"] else page["plain_route"],
                "linked_heading": page["heading_message"],
            }
            for page, said in zip(pages, brief.pages, strict=True)
            if said.access == "anyone" and not said.parameters and (page["has_list"] or page["is_plain"])
        ],
        "missing_message": f"{label}.msg_missing",
        "unfit_message": f"{label}.msg_unfit",
        "has_menu": bool(brief.records or brief.menu) and not menu_root,
        "menu_root": menu_root or f"menu_{label}",
        **_rights(brief),
        **_assets(brief),
        **_placed(brief, menu_root or f"menu_{label}"),
        **_programs(data, brief),
        **_settings(data, brief),
    }
    routes = page_routes(brief) + endpoint_routes
    if front_page:
        routes.insert(0, {"route_name": "front_page", "rules": [_rule("")], "guards": "[*ANYONE, in_language]"})
    if brief.assets:
        routes.append({"route_name": "asset", "rules": [_rule("assets/<name>")], "guards": "[*ANYONE]"})
    values["routes"] = routes
    values["route_imports"] = lines(route_imports(brief, routes))
    from .contents import message_values

    values["messages"] = message_values(brief, has_routes, has_forms)
    values |= _manifest(brief, values)
    return values | own_test_values(brief, values)


def _rule(rule: str) -> Values:
    return {"rule": rule, "rule_methods": '{"GET"}'}


def _rights(brief: Brief) -> Values:
    groups = [{"group": group.name.title, "group_snake": group.key} for group in brief.groups]
    return {"groups": groups, "has_groups": bool(groups)}


def _assets(brief: Brief) -> Values:
    assets = [{"asset": one.file, "asset_type": _ASSET_TYPES[one.sort], "sort": one.sort} for one in brief.assets]
    return {
        "assets": assets,
        "has_assets": bool(assets),
        "style_sheets": [one for one in assets if one["sort"] == "css"],
        "scripts": [one for one in assets if one["sort"] == "js"],
        "pictures": [one for one in assets if one["sort"] == "svg"],
    }


def _placed(brief: Brief, menu_root: str) -> Values:
    entries = entry_values(brief, menu_root)
    blocks = block_values(brief)
    return {
        "entries": entries,
        "openers": [entry for entry in entries if entry["opens"]],
        "blocks": blocks,
        "block_records": [block for block in blocks if block["block_shows"]],
        "placements": placement_values(brief),
    }


def _programs(data: KitData, brief: Brief) -> Values:
    jobs, job_imports = job_values(brief)
    services, service_imports = service_values(brief)
    heard = listener_values(data, brief)
    return {
        "jobs": jobs,
        "has_jobs": bool(jobs),
        "jobs_model": f"{brief.name.snake}.jobs",
        "job_imports": lines(job_imports),
        "services": services,
        "has_services": bool(services),
        "service_imports": lines(service_imports),
        "heard": heard,
        "listener_pool": any(not one["listener_own"] for one in heard),
        "listener_model": any(one["listener_own"] for one in heard),
        "has_samples": bool(brief.samples),
    }


def _settings(data: KitData, brief: Brief) -> Values:
    fields = [field_values(data, brief, "setting", setting.field) for setting in brief.settings]
    spelled = " ".join(field["default"] for field in fields)
    imports = ["import datetime"] if "datetime." in spelled else []
    imports += ["from decimal import Decimal"] if "Decimal(" in spelled else []
    imports += [""] if imports else []
    imports += ["from trytond.model import ModelSingleton, ModelSQL, ModelView, fields"]
    imports += ["from trytond.pool import Pool"] if "Pool()" in spelled else []
    return {
        "settings": fields,
        "has_settings": bool(fields),
        "setting_defaults": [field for field in fields if field["default"]],
        "setting_imports": lines(imports),
        "settings_model": f"{brief.name.snake}.configuration",
        "settings_title": f"Settings of {brief.name.title}",
        "settings_docstring": python_docstring(
            f"The settings of {brief.name.title}: one row, changed by administrators."
        ),
    }


def _manifest(brief: Brief, values: Values) -> Values:
    """Return what ``tryton.cfg`` says: what is needed, the data files so that nothing is named before it is there."""
    needs = {"ir", "res", *brief.needs}
    for record in brief.records:
        for field in record.fields:
            if field.is_relation:
                if not field.target.islower() or field.target == "user":  # else its module is among the needs
                    needs.add(target_of(brief, field).partition(".")[0])
    needs |= {one.of.partition(".")[0] for one in brief.listeners if "." in one.of}
    files = ["menu.xml"] if values["has_menu"] else []
    files += ["groups.xml"] if brief.groups else []
    files += [f"{record['snake']}.xml" for record in values["records"]]
    files += ["configuration.xml"] if brief.settings else []
    files += ["messages.xml"] if values["messages"] else []
    files += ["entries.xml"] if values["entries"] else []
    files += ["jobs.xml"] if values["jobs"] else []
    models = [f"{one['snake']}.{one['record']}" for one in values["records"]]
    models += [f"{one['snake']}.{link['link']}" for one in values["records"] for link in one["links"]]
    models += ["configuration.Configuration"] if brief.settings else []
    models += ["jobs.Jobs", "jobs.Cron"] if values["jobs"] else []
    models += [f"listeners.{one['heard_class']}" for one in values["heard"]]
    wizards = [f"entries.{one['opener']}" for one in values["openers"]]
    return {
        "depends": [{"need": need} for need in sorted(needs - {brief.name.snake})],
        "data_files": [{"data_file": name} for name in files],
        "models": [{"registered": name} for name in models],
        "has_models": bool(models),
        "wizards": [{"registered": name} for name in wizards],
        "has_wizards": bool(wizards),
    }
