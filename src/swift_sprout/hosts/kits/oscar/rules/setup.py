"""What the host itself must have for the modules of a shop: where it is absent, modules fail in ways that mislead."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from .....core.nearest import misspelt, near_text, said_near, slip_in
from ...django.reading.engines import template_engines
from ..facts import oscar
from .reading import host_app_folder, line_with

if TYPE_CHECKING:
    from .....core.findings import Finding
    from ...django.view import HostView


def settings(view: HostView) -> Iterator[Finding]:
    """Middleware, context processors and a search engine that the shop's own templates and views rest on."""
    if view.settings is None or view.settings.path is None:
        return
    path = view.settings.path
    own = oscar(view.data)
    middleware = view.settings.get("MIDDLEWARE")
    if middleware is not None and isinstance(middleware.plain, list) and middleware.sure:
        for name in own.middleware:
            if name not in middleware.plain:
                yield _found(view, "compatible.middleware-absent", path, line_with(path, "MIDDLEWARE"), name=name)
    for engine in template_engines(view.settings):
        for name in own.context_processors if engine.context_processors is not None else ():
            if name not in (engine.context_processors or ()):
                line = line_with(path, "context_processors")
                yield _found(view, "compatible.context-processor-absent", path, line, name=name)
    if view.settings.get("HAYSTACK_CONNECTIONS") is None:
        yield _found(view, "compatible.search-engine-absent", path, 0)


def languages(view: HostView) -> Iterator[Finding]:
    """The addresses that change the language, which the shop's layout always names."""
    conf = view.addresses.file(view.root_urls) if view.root_urls else None
    if conf is None or not conf.routes:
        return
    wanted = oscar(view.data).languages
    source = view.project.parse(conf.path)
    text = source.source.text if source is not None and source.source is not None else wanted
    if wanted not in text and "set_language" not in text and "i18n.urls" not in text:
        yield _found(view, "compatible.languages-absent", conf.path, conf.routes[0].line, wanted=wanted)


#  the settings that hold the statuses which may follow each one, with those that hold the first one
PIPELINES = {
    "OSCAR_ORDER_STATUS_PIPELINE": "OSCAR_INITIAL_ORDER_STATUS",
    "OSCAR_LINE_STATUS_PIPELINE": "OSCAR_INITIAL_LINE_STATUS",
}


def orders(view: HostView) -> Iterator[Finding]:
    """Statuses of orders that the settings name, and that the pipeline of statuses does not have."""
    met: set[tuple[Path, int, str]] = set()  # one pipeline may be the other one
    for key, initial in PIPELINES.items():
        held = view.settings.get(key) if view.settings is not None else None
        first = view.settings.get(initial) if view.settings is not None else None
        if held is None or not held.sure or not isinstance(held.plain, dict) or not held.plain:
            continue
        statuses = {str(one) for one in held.plain}
        unknown: list[tuple[str, str, Path, int]] = []
        if first is not None and isinstance(first.plain, str) and first.plain not in statuses:
            unknown.append((first.plain, near_text(first.plain, statuses), first.file, first.line))
        for following in held.plain.values():
            for status in map(str, following if isinstance(following, list | tuple) else ()):
                meant = misspelt_status(status, statuses)
                if meant is not None:
                    unknown.append(
                        (status, said_near(meant), held.file, line_with(held.file, f'"{status}"') or held.line)
                    )
        for status, near, file, line in unknown:
            if (file, line, status) not in met:
                met.add((file, line, status))
                yield _found(view, "placed.status-unknown", file, line, status=status, near=near, key=key)


def address_fields(view: HostView) -> Iterator[Finding]:
    """Fields of addresses that the settings require, and that addresses do not have but for one of nearly that name."""
    held = view.settings.get("OSCAR_REQUIRED_ADDRESS_FIELDS") if view.settings is not None else None
    known = _fields_of_addresses(view)
    for name in held.plain if held is not None and isinstance(held.plain, list | tuple) and known else ():
        meant = slip_in(str(name), known) if name not in known else None
        if held is not None and meant is not None:
            line = line_with(held.file, f'"{name}"') or held.line
            values = {"name": name, "near": said_near(meant)}
            yield _found(view, "described.address-field-unknown", held.file, line, **values)


def _fields_of_addresses(view: HostView) -> set[str]:
    """Return the fields that the host's own addresses have; empty where its code is not found."""
    folder = host_app_folder(view, "address")
    source = view.project.parse(folder / "abstract_models.py") if folder is not None else None
    names = set()
    for node in ast.walk(source.tree) if source is not None and source.tree is not None else ():
        if isinstance(node, ast.Assign) and isinstance(node.value, ast.Call) and isinstance(node.targets[0], ast.Name):
            names.add(node.targets[0].id)
    return names


def misspelt_names(view: HostView) -> Iterator[Finding]:
    """Settings of the shop that nothing reads, and that are nearly one that the shop does."""
    prefix = oscar(view.data).settings
    said = view.settings.values if view.settings is not None else {}
    ours = {key: value for key, value in said.items() if key.startswith(prefix)}
    ours = {key: value for key, value in ours.items() if Path(value.file).is_relative_to(view.root)}
    known = _settings_read(view, prefix) if ours else set()
    for key, value in ours.items():
        near = misspelt(key, known) if key not in known else None
        if near is not None and not any(f"settings.{key}" in text for text in view.drawing.texts):
            yield _found(view, "enabled.setting-misspelt", value.file, value.line, key=key, near=near)


def _settings_read(view: HostView, prefix: str) -> set[str]:
    """Return the settings that the host's own code names; empty where it is not found."""
    folder = host_app_folder(view, "dashboard")
    texts = (path.read_text("utf-8", "replace") for path in (folder.parent.parent.rglob("*.py") if folder else ()))
    return {name for text in texts for name in re.findall(rf"\b{prefix}[A-Z_]+\b", text)}


def misspelt_status(status: str, statuses: set[str]) -> str | None:
    """Return the status that another one must mean; None where it may well be one of its own."""
    if status in statuses:
        return None
    alike = next((one for one in statuses if one.lower() == status.lower()), None)
    return alike or misspelt(status, statuses)


def _found(view: HostView, code: str, path: Path, line: int, **values: object) -> Finding:
    file = view.relative(path)
    return view.data.rules.finding(code, "", file, line, place=f"{file}:{line}" if line else file, **values)


OF_HOST = (settings, languages, orders, address_fields, misspelt_names)
