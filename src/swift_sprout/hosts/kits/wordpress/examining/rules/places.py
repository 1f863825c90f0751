"""Whether menu entries, blocks, widgets, assets and texts stand where they should."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

import polib

from ......core.nearest import near_text
from ...placing import may_be_drawn
from ...reading.modules import joined
from ...reading.syntax import line_of, text_of
from .routes import hooked_on

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ...reading.phpfile import Call
    from ..examination import Examination

_MENUS = ("add_menu_page", "add_submenu_page", "add_options_page", "add_management_page", "add_theme_page")


def menu_hooks(exam: Examination) -> Iterator[Finding]:
    """Entries of the administration's menu that are made when there is no menu."""
    for file, call in exam.calls(*_MENUS):
        owner, method = call.inside
        hooks = hooked_on(exam, owner, method) if method and method != "{closure}" else set()
        if hooks and not any("admin_menu" in hook for hook in hooks):
            yield exam.find("placed.menu-hook", file.path, call.line, hook=", ".join(sorted(hooks)), function=call.name)


def settings_hooks(exam: Examination) -> Iterator[Finding]:
    """Sections and fields of settings that are made where the host has no such functions."""
    for file, call in exam.calls("add_settings_section", "add_settings_field"):
        owner, method = call.inside
        hooks = hooked_on(exam, owner, method) if method and method != "{closure}" else set()
        if hooks & {"init", "plugins_loaded", "wp_loaded", "rest_api_init"}:
            yield exam.find(
                "placed.settings-hook", file.path, call.line, hook=", ".join(sorted(hooks)), function=call.name
            )
            return


def blocks(exam: Examination) -> Iterator[Finding]:
    """Blocks whose description is absent, broken, or has no proper name."""
    if exam.module.single:
        return
    for file, call in exam.calls("register_block_type"):
        if not call.nodes:
            continue
        path = _below(file.path, text_of(call.nodes[0]), call.values[0])
        if path is None:
            continue
        described = path if path.suffix == ".json" else path / "block.json"
        if not described.is_file():
            yield exam.find("placed.block-absent", file.path, call.line, path=exam.view.relative(described))
    for described in sorted(exam.module.place.rglob("block.json")):
        if "node_modules" in described.parts:
            continue
        try:
            told = json.loads(described.read_text("utf-8"))
            name = told.get("name", "")
        except (ValueError, AttributeError) as error:
            line = getattr(error, "lineno", 1)
            yield exam.find("placed.block-broken", described, line, reason=str(error))
            continue
        if not re.fullmatch(r"[a-z][a-z0-9-]*/[a-z][a-z0-9-]*", name):
            yield exam.find("placed.block-name", described, 0, name=name)
        yield from _files_of_block(exam, described, told)


#  the keys of a block's description that name files, and what is missing without each (the host's reference, 6.1)
_BLOCK_FILES = {
    "render": "the block draws nothing",
    "editorScript": "the block is not offered in the editor",
    "script": "its script is not loaded",
    "viewScript": "its script is not loaded",
    "style": "its style sheet is not loaded",
    "editorStyle": "its style sheet is not loaded in the editor",
}


def settings_groups(exam: Examination) -> Iterator[Finding]:
    """Settings that a screen sends as a group that the module does not register, as far as the files say its groups."""
    registered = [call.values[0] for _, call in exam.calls("register_setting") if call.values]
    if not registered or None in registered:
        return
    for file, call in exam.calls("settings_fields"):
        group = call.values[0] if call.values else None
        if isinstance(group, str) and group not in registered and group not in _HOSTS_GROUPS:
            near = near_text(group, registered)
            yield exam.find(
                "placed.settings-group", file.path, call.line, group=group, screen=call.inside[1], near=near
            )


#  groups of settings that the host has itself
_HOSTS_GROUPS = ("general", "writing", "reading", "discussion", "media", "permalink", "privacy", "misc", "options")


def _files_of_block(exam: Examination, described: Path, told: dict[str, Any]) -> Iterator[Finding]:
    """Yield the files that a block's description names and that are not there; those of a build are not judged."""
    text = described.read_text("utf-8", "replace")
    for key, effect in _BLOCK_FILES.items():
        said = told.get(key) or []
        for name in [said] if isinstance(said, str) else said:
            if not isinstance(name, str) or not name.startswith("file:"):
                continue
            target = joined(described.parent, name.removeprefix("file:"))
            if target.is_file() or (not target.parent.exists() and _is_built(exam, target)):
                continue
            line = text.count("\n", 0, max(0, text.find(f'"{name}"'))) + 1
            beside = [one.name for one in described.parent.iterdir() if one.is_file()]
            near = near_text(target.name, beside)
            yield exam.find("placed.block-file-absent", described, line, key=key, path=name, effect=effect, near=near)


def _is_built(exam: Examination, target: Path) -> bool:
    """True for a file below the folder of a build that was not run: its sources and its tools are there."""
    return (exam.module.folder / "package.json").is_file() and bool({"build", "dist"} & set(target.parts))


def _below(file: Path, source: str, value: object) -> Path | None:
    """Return a path that begins at the file's folder; None where the source does not say it."""
    text = "".join(source.split())
    quoted = re.fullmatch(r"(.+?)\.?['\"]([^'\"]+)['\"]", text)
    if quoted is None:
        return None
    base = {
        "__DIR__.": file.parent,
        "__DIR__": file.parent,
        "dirname(__DIR__).": file.parent.parent,
        "dirname(__DIR__)": file.parent.parent,
    }
    base |= {"plugin_dir_path(__FILE__)": file.parent, "plugin_dir_path(__FILE__).": file.parent}
    start = base.get(quoted.group(1))
    return start / quoted.group(2).strip("/") if start is not None else None


def assets(exam: Examination) -> Iterator[Finding]:
    """Style sheets and scripts that pages load and that are not there."""
    module = exam.module
    for file, call in exam.calls("plugins_url"):
        path = call.values[0] if call.values else None
        base = text_of(call.nodes[1]) if len(call.nodes) > 1 else ""
        if not isinstance(path, str) or "." not in path.rpartition("/")[2] or module.single:
            continue
        if base == "__FILE__":
            folder = file.path.parent
        elif base.endswith("MAIN_FILE"):
            folder = module.place
        else:
            continue
        if not (folder / path.lstrip("/")).is_file():
            beside = (folder / path.lstrip("/")).parent
            near = near_text(Path(path).name, [one.name for one in beside.iterdir()] if beside.is_dir() else [])
            yield exam.find("placed.asset-absent", file.path, call.line, path=path, near=near)


def assets_named(exam: Examination) -> Iterator[Finding]:
    """Style sheets and scripts that are registered by a path the files say, and that are not there."""
    for file, call in exam.calls("wp_register_style", "wp_register_script", "wp_enqueue_style", "wp_enqueue_script"):
        path = exam.module.file_meant(file, call.nodes[1]) if len(call.nodes) > 1 else None
        if path is None or "." not in path.name or exam.module.folder not in path.parents or exam.module.single:
            continue
        if not path.is_file() and not _is_built(exam, path):
            beside = [one.name for one in path.parent.iterdir()] if path.parent.is_dir() else []
            shown = path.relative_to(exam.module.folder).as_posix()
            yield exam.find(
                "placed.asset-absent", file.path, line_of(call.nodes[1]), path=shown, near=near_text(path.name, beside)
            )


def assets_served(exam: Examination) -> Iterator[Finding]:
    """Style sheets and scripts that the running host knows from the module and that are not there."""
    if not exam.loaded:
        return
    asked = (exam.answers.get("assets") or {}).get("absent") or []
    told = set()
    named = {
        exam.module.file_meant(file, call.nodes[1])
        for file, call in exam.calls("wp_register_style", "wp_register_script", "wp_enqueue_style", "wp_enqueue_script")
        if len(call.nodes) > 1
    }
    for asset in [*asked, *(exam.answers.get("absent_there") or [])]:
        path = Path(asset["file"])
        if not exam.holds(asset["file"]) or path in told or _is_built(exam, path):
            continue
        told.add(path)
        if path in named:
            continue
        parts = path.relative_to(exam.module.folder).parts
        tails = ["/".join(parts[start:]) for start in range(len(parts))]
        place, line = exam.line_saying(*tails, asset["handle"]) or (exam.module.main or exam.module.place, 0)
        beside = [one.name for one in path.parent.iterdir()] if path.parent.is_dir() else []
        near = near_text(path.name, beside)
        yield exam.find("placed.asset-absent", place, line, path="/".join(parts), near=near)


def assets_waiting(exam: Examination) -> Iterator[Finding]:
    """Style sheets and scripts of the module that wait for one that nobody registers."""
    known = (exam.answers.get("names") or {}).get("handles") or []
    waiting = [*(exam.answers.get("waiting") or []), *(exam.answers.get("waiting_there") or [])]
    for asset in waiting if exam.loaded else ():
        if f"/{exam.module.name}/" not in asset["source"]:
            continue
        said = f"'{asset['needs']}'", f'"{asset["needs"]}"'
        place, line = exam.line_saying(*said) or (exam.module.main or exam.module.place, 0)
        near = near_text(asset["needs"], known)
        yield exam.find("placed.asset-waits", place, line, handle=asset["handle"], needs=asset["needs"], near=near)


def catalogues(exam: Examination) -> Iterator[Finding]:
    """Translations that are not compiled, older than their source, or named so that the host does not find them."""
    module = exam.module
    folder = module.place / (module.header.get("Domain Path").strip("/") or "languages")
    if module.single or not folder.is_dir():
        return
    loaded = [call for _, call in exam.calls("load_plugin_textdomain")]
    files = sorted(folder.glob("*.po"))
    if files and not loaded and module.main is not None:
        yield exam.find("placed.texts-not-loaded", module.main, 1, folder=exam.view.relative(folder))
    for file, call in exam.calls("load_plugin_textdomain"):
        said = re.search(r"['\"]/?([A-Za-z0-9_/-]+)['\"]\)?$", text_of(call.nodes[2])) if len(call.nodes) > 2 else None
        if (
            said
            and files
            and not (module.place / said.group(1)).is_dir()
            and not (module.place.parent / said.group(1)).is_dir()
        ):
            yield exam.find("placed.texts-elsewhere", file.path, call.line, path=said.group(1))
    for source in files:
        compiled = source.with_suffix(".mo")
        if not source.name.startswith(f"{module.text_domain}-"):
            yield exam.find("placed.catalogue-name", source, 0, domain=module.text_domain)
        elif not compiled.is_file():
            yield exam.find("placed.catalogue-not-compiled", source, 0, compiled=compiled.name)
        elif _older(source, compiled):
            yield exam.find("placed.catalogue-older", source, 0, compiled=compiled.name)


def _older(source: Path, compiled: Path) -> bool:
    """True when a compiled catalogue does not hold what its source says."""
    try:
        wanted = {entry.msgid: entry.msgstr for entry in polib.pofile(str(source)) if entry.translated()}
        held = {entry.msgid: entry.msgstr for entry in polib.mofile(str(compiled))}
    except (OSError, ValueError, UnicodeDecodeError):
        return False
    return any(held.get(text) != said for text, said in wanted.items())


def placed(exam: Examination) -> Iterator[Finding]:
    """Widgets in areas that the theme has not, widgets that nobody registers, and screens that do not open."""
    if not exam.loaded:
        return
    yield from _widgets(exam)
    yield from _shortcodes(exam)
    yield from _submenus(exam)


def _widgets(exam: Examination) -> Iterator[Finding]:
    told = exam.answers.get("places") or {}
    areas = set(told.get("areas") or [])
    registered = told.get("widgets") or {}
    own = {base for base, held in registered.items() if exam.holds(held["file"])}
    placed_in = [(area, widget) for area, ids in (told.get("placed") or {}).items() for widget in ids or []]
    for area, widget in placed_in:
        #  the host's own names: widgets that are put aside, and the version of its list
        known = area in areas or area in ("wp_inactive_widgets", "array_version")
        if widget.rpartition("-")[0] in own and not known:
            file = exam.module.main or exam.module.place
            listed = ", ".join(sorted(areas)) or "none"
            yield exam.find("placed.area-absent", file, 0, widget=widget, area=area, areas=listed)
        elif widget.rpartition("-")[0] in own and area in areas and _is_undrawn(exam, area):
            drawn = ", ".join(sorted(exam.areas or ())) or "none"
            file = exam.module.main or exam.module.place
            yield exam.find("placed.area-not-drawn", file, 0, widget=widget, area=area, areas=drawn)
    for base, declared_in in _declared_widgets(exam).items():
        mine = [(area, widget) for area, widget in placed_in if widget.startswith(f"{base}-")]
        if mine and base not in registered:
            area, widget = mine[0]
            yield exam.find("placed.widget-unregistered", declared_in, 0, widget=widget, area=area)


def _is_undrawn(exam: Examination, area: str) -> bool:
    """True where no page drew an area, and no code would on other pages than were asked for."""
    return exam.areas is not None and area not in exam.areas and not may_be_drawn(exam.view, area)


def _shortcodes(exam: Examination) -> Iterator[Finding]:
    told = exam.answers.get("places") or {}
    for tag, held in (told.get("shortcodes") or {}).items():
        said_in = _says(exam, tag)
        if not held["callable"] and said_in is not None:
            yield exam.find("placed.shortcode-uncallable", said_in, 0, tag=tag, what=held["name"])


def _submenus(exam: Examination) -> Iterator[Finding]:
    menu = exam.answers.get("menu") or []
    if exam.broke_administration is not None:
        return  # it was left out there: what it adds is not in the menu
    slugs = {entry["slug"] for entry in menu if not entry["parent"]}
    for file, call in exam.calls("add_submenu_page"):
        parent = call.values[0] if call.values and not call.maybe and on_site_menu(exam, call) else None
        if not isinstance(parent, str) or not parent:
            continue
        if not parent.endswith(".php"):
            absent = bool(menu) and parent not in slugs
            near = near_text(parent, slugs) if absent else ""
        else:  # a file of the administration; what stands behind a question mark is asked of it
            absent, near = "?" not in parent and not (exam.view.root / "wp-admin" / parent).is_file(), ""
        if absent:
            yield exam.find("placed.parent-absent", file.path, call.line, parent=parent, near=near)


def on_site_menu(exam: Examination, call: Call) -> bool:
    """False for an entry of another menu than the site's: that of a network of sites, or of a user."""
    hooks = hooked_on(exam, *call.inside) if call.inside[1] not in ("", "{closure}") else set()
    return not hooks or "admin_menu" in hooks


def _declared_widgets(exam: Examination) -> dict[str, Path]:
    found: dict[str, Path] = {}
    for held, file in exam.module.classes.values() if exam.module.files_saying(["wp_widget"]) else ():
        base = held.constants.get("BASE")
        if held.extends.lower() == "wp_widget":
            said = base if isinstance(base, str) else _constructed(file.text)
            if said:
                found[said] = file.path
    return found


def _constructed(text: str) -> str:
    said = re.search(r"parent::__construct\(\s*['\"]([a-z0-9_-]+)['\"]", text)
    return said.group(1) if said else ""


def _says(exam: Examination, tag: str) -> Path | None:
    calls = list(exam.calls("add_shortcode"))
    told = next((file.path for file, call in calls if call.values[:1] == [tag]), None)
    if told is None and any(not isinstance(call.values[0], str) for _, call in calls if call.values):  # from a list
        listed = exam.line_saying(f"'{tag}'", f'"{tag}"')
        return listed[0] if listed is not None else None
    return told
