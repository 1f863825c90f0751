"""From a brief to the files of a WordPress module, and the change set that makes them."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import TYPE_CHECKING

from .....core.brief import BRIEF_FILE, Brief
from .....core.brieftext import brief_text
from .....core.changes import ChangeSet
from .....core.errors import Problem, WrongUse
from ....contract.kitdata import KitData
from ....shared.generating import files_of
from ....shared.making import free_folder, making
from ....shared.openapi import described
from ....shared.rendering import php_text
from ....shared.sampling import sample_data
from ..facts import wordpress
from .contents import catalogues
from .pages import (
    endpoint_values,
    has_front_page,
    page_links,
    page_values,
    page_variable,
    query_names,
    rest_space,
    routes_of,
)
from .placing import block_values, placement_values, side_entries, site_entries
from .programs import command_values, listener_values, service_values
from .records import field_values, record_values
from .shared import Values, capabilities, capability, comment_text, lines, namespace_of, role_name, roles

if TYPE_CHECKING:
    from pathlib import Path

    from .....core.modulefolders import ModuleFolder


def compose(root: Path, data: KitData, brief: Brief, place: ModuleFolder) -> ChangeSet:
    """Return the change set that makes a module; raises Refused when something stands in its place already."""
    label = brief.name.kebab
    folder = free_folder(root, place, label)
    return making(data, label, folder, generate(data, brief), {})


def generate(data: KitData, brief: Brief, last: tuple[Brief, Mapping[str, bytes]] | None = None) -> dict[str, bytes]:
    """Return every file of a module: path below its folder, and content. Raises WrongUse for what it cannot carry.

    last -- another brief with all its files: those whose values are the same are taken from there
    """
    check_inner_names(data, brief)
    values = values_of(data, brief)
    before = (values_of(data, last[0]), last[1]) if last is not None else None
    files = {BRIEF_FILE: brief_text(brief).encode("utf-8")}
    files |= files_of(data, brief.name.kebab, values, before)
    if brief.endpoints:
        files["openapi.json"] = described(brief, below=f"/wp-json/{rest_space(brief)}").encode("utf-8")
    if brief.samples:
        files["sample_data.json"] = sample_data(brief).encode("utf-8")
    for translation in brief.translations:
        files |= catalogues(data, brief, translation)
    return files


def check_inner_names(data: KitData, brief: Brief) -> None:
    """Raise WrongUse when a part has a name that the host or PHP keeps for itself."""
    law = data.facts.naming
    words = set(wordpress(data).php_words)
    problems: list[Problem] = []
    for record in brief.records:
        if record.name.camel.lower() in words:
            problems.append(Problem(record.name.title, "a record cannot have this name: PHP keeps it", "Rename it."))
        for field in record.fields:
            if field.name in law.reserved_fields:
                what = f"this field name is kept by {data.title}"
                problems.append(Problem(f"{record.name.title}.{field.name}", what, f"Say {field.name}_value."))
    for kind, parts in (("service", brief.services), ("command", brief.commands), ("block", brief.blocks)):
        for part in parts:
            if part.name.camel.lower() in words:
                problems.append(Problem(part.name.title, f"a {kind} cannot have this name: PHP keeps it", "Rename it."))
    if problems:
        raise WrongUse(
            "name-reserved", "Some names cannot be used on this host.", "Rename what is listed.", tuple(problems)
        )


def values_of(data: KitData, brief: Brief) -> Values:
    """Return all values that the templates of a module take."""
    label = brief.name.kebab
    records = [record_values(data, brief, record) for record in brief.records]
    by_name = {record["record"]: record for record in records}
    pages = page_values(brief, by_name)
    routes, rules = routes_of(brief)
    blocks = block_values(brief, by_name)
    assets = _assets(brief)
    settings = [field_values(data, brief, "setting", one.field) for one in brief.settings]
    placed = placement_values(brief)
    side = side_entries(brief)
    commands = command_values(data, brief)
    values: Values = {
        "title": brief.name.title,
        "label": label,
        "domain": label,
        "version": brief.version,
        "namespace": namespace_of(brief),
        "header_title": comment_text(brief.name.title),
        "header_lines": lines(_header(data, brief)),
        "table_start": f"{brief.name.snake}_",
        "record_hook_start": f"{brief.name.snake}_",
        "settled_hook": f"{brief.name.snake}_settled",
        "version_option": f"{brief.name.snake}_version",
        "placed_option": f"{brief.name.snake}_placed",
        "settings_option": f"{brief.name.snake}_settings",
        "settings_slug": f"{label}-settings",
        "records": records,
        "has_records": bool(records),
        "first_capability": capability(brief, brief.records[0], "read") if brief.records else "",
        "has_rights": bool(brief.records or brief.permissions or brief.groups),
        "all_capabilities": php_text(capabilities(brief)),
        "roles": [
            {"role_key": role_name(brief, group.key), "role_name": group.name.title, "role_may": php_text(may)}
            for group, may in zip(brief.groups, roles(brief).values(), strict=True)
        ],
        "pages": pages,
        "has_pages": bool(pages),
        "plain_pages": [page for page in pages if page["is_plain"]],
        "list_pages": [page for page in pages if page["has_list"]],
        "one_pages": [page for page in pages if page["has_one"]],
        "form_pages": [page for page in pages if page["has_form"]],
        "has_forms": any(page["has_form"] for page in pages),
        "has_front_page": has_front_page(brief),
        "page_links": page_links(brief),
        "routes": routes,
        "rules": rules,
        "tested_rules": php_text({one["rule"]: one["rule_query"] for one in rules}),
        "query_names": ", ".join(php_text(name) for name in query_names(brief)),
        "page_variable": page_variable(brief),
        "parameter_start": f"{brief.name.snake}_in_",
        "endpoints": endpoint_values(brief, by_name),
        "has_endpoints": bool(brief.endpoints),
        "rest_space": rest_space(brief),
        "site_entries": site_entries(brief),
        "has_site_menu": any(one.side == "site" for one in brief.menu),
        "menu_address": "Pages::address( $entry['path'] )" if pages else "home_url( '/' )",
        "side_entries": side,
        "has_administration": bool(records or settings or side),
        "blocks": blocks,
        "has_blocks": bool(blocks),
        "editor_handle": f"{label}-editor",
        "placed": placed,
        "placements": bool(placed),
        "settings": settings,
        "has_settings": bool(settings),
        "settings_screen": bool(settings),
        "commands": commands,
        "has_commands": bool(commands),
        "services": service_values(brief),
        "has_services": bool(brief.services),
        "listeners": listener_values(data, brief),
        "has_listeners": bool(brief.listeners),
        "has_samples": bool(brief.samples),
        **assets,
        "block_assets": assets["style_sheets"] if blocks else [],
        "has_assets": bool(assets["style_sheets"] or assets["scripts"]) and bool(pages),
        "needs_values": bool(records or settings or commands),
        "needs_forms": bool(records or settings),
        "needs_access": bool(records or pages or brief.endpoints or settings or brief.menu),
        "tested_records": [one for one in records if one["can_be_sampled"]],
    }
    values["boots"] = lines(_boots(values))
    return values


def _boots(values: Values) -> list[str]:
    wanted = (
        ("has_pages", "Pages"),
        ("has_endpoints", "Endpoints"),
        ("has_administration", "Administration"),
        ("has_site_menu", "SiteMenu"),
        ("has_blocks", "Blocks"),
        ("has_settings", "Settings"),
        ("has_listeners", "Listeners"),
    )
    return [name for when, name in wanted if values[when]]


def _header(data: KitData, brief: Brief) -> list[str]:
    pairs = [
        ("Description", brief.summary),
        ("Version", brief.version),
        ("Requires at least", wordpress(data).header.least_host),
        ("Requires PHP", wordpress(data).header.least_php),
        ("Requires Plugins", ", ".join(need.replace("_", "-") for need in brief.needs)),
        ("Author", brief.author),
        ("License", brief.licence),
        ("Text Domain", brief.name.kebab),
        ("Domain Path", "/languages"),
    ]
    return [f"{key}: {comment_text(value)}" for key, value in pairs if value]


def _assets(brief: Brief) -> Values:
    assets = [
        {
            "asset": one.file,
            "asset_path": f"assets/{one.file}",
            "handle": f"{brief.name.kebab}-{re.sub(r'[^a-z0-9]+', '-', one.file.lower()).strip('-')}",
            "sort": one.sort,
        }
        for one in brief.assets
    ]
    return {
        "assets": assets,
        "style_sheets": [one for one in assets if one["sort"] == "css"],
        "scripts": [one for one in assets if one["sort"] == "js"],
        "pictures": [one for one in assets if one["sort"] == "svg"],
    }
