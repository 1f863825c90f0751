"""Whether the host sees the module, what its header says, and whether what it needs is there."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import TYPE_CHECKING

from ......core.nearest import near_text
from ...reading.header import READ_BYTES

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination

_VERSION = re.compile(r"\d+(\.\d+)*([.-]?[A-Za-z][\w.+-]*)?\Z")


def seen(one: Examination) -> Iterator[Finding]:
    """A main file that the host does not see, sees twice, or would have to look for too deep."""
    module = one.module
    if len(module.mains) > 1:
        others = ", ".join(one.view.relative(path) for path, _ in module.mains)
        yield one.find("found.two-main-files", module.mains[1][0], 1, count=len(module.mains), files=others)
    if module.mains:
        return
    deeper = (
        [path for path in module.place.glob("*/*.php") if "Plugin Name:" in _head(path)] if not module.single else []
    )
    if deeper:
        yield one.find("found.too-deep", deeper[0], 1, folder=one.view.relative(deeper[0].parent))
        return
    nearly = module.nearly()
    if nearly is not None:
        path, line = nearly
        texts = path.read_bytes().split(b"\n")
        offset = sum(len(text) + 1 for text in texts[: line - 1])
        said = texts[line - 1].decode("utf-8", "replace").strip(" */#\t\r")
        if offset > READ_BYTES and re.match(r"Plugin Name:", said, re.IGNORECASE):
            yield one.find("found.header-too-far", path, line, bytes=offset)
        elif re.match(r"Plugin Name:\s*\Z", said, re.IGNORECASE):
            yield one.find("found.name-empty", path, line)
        else:
            yield one.find("found.name-misspelled", path, line, said=said[:60])
        return
    main = next(iter(sorted(module.place.glob("*.php"))), module.place) if not module.single else module.place
    yield one.find("found.no-header", main, 1 if main.is_file() else 0)


def _head(path: object) -> str:
    from pathlib import Path

    return Path(str(path)).read_bytes()[:READ_BYTES].decode("utf-8", "replace")


def header(one: Examination) -> Iterator[Finding]:
    """Header lines that the host cannot use, or that tell something wrong."""
    module = one.module
    if module.main is None:
        return
    said, lines, main = module.header.values, module.header.lines, module.main
    if "Version" not in said:
        yield one.find("described.no-version", main, lines["Plugin Name"])
    elif not _VERSION.match(said["Version"]):
        yield one.find("described.version", main, lines["Version"], version=said["Version"])
    for key in ("Requires PHP", "Requires at least"):
        if key in said and not re.fullmatch(r"\d+(\.\d+)*", said[key]):
            yield one.find("described.requirement", main, lines[key], key=key, said=said[key])
    if not module.single and "Domain Path" in said:
        folder = module.place / said["Domain Path"].strip("/")
        if not folder.is_dir() and any(module.place.rglob("*.mo")):
            yield one.find("described.domain-path", main, lines["Domain Path"], path=said["Domain Path"])
    yield from _domain(one)


def _domain(one: Examination) -> Iterator[Finding]:
    """Texts are asked for in another domain than the one that is loaded."""
    asked: dict[str, tuple[object, int, int]] = {}
    for file, call in one.calls("__", "_e", "esc_html__", "esc_html_e", "esc_attr__", "esc_attr_e"):
        domain = call.values[1] if len(call.values) > 1 else None
        if isinstance(domain, str):
            place, line, count = asked.get(domain, (file.path, call.line, 0))
            asked[domain] = (place, line, count + 1)
    loaded = {call.values[0] for _, call in one.calls("load_plugin_textdomain", "load_textdomain") if call.values}
    if not asked or not loaded or None in loaded:
        return
    for domain, (path, line, count) in sorted(asked.items()):
        if domain not in loaded and domain != "default":
            near = near_text(domain, [str(name) for name in loaded])
            yield one.find(
                "described.text-domain",
                str(path),
                line,
                domain=domain,
                count=count,
                loaded=", ".join(sorted(map(str, loaded))),
                near=near,
            )


def requirements(one: Examination) -> Iterator[Finding]:
    """The host, PHP and other modules that the header asks for."""
    module, view = one.module, one.view
    if module.main is None:
        return
    _said, lines, main = module.header.values, module.header.lines, module.main
    yield from _old(one, "Requires at least", "compatible.host-too-old", view.version)
    known = {other.name: other for other in view.modules}
    for need in module.needs:
        if need not in known:
            near = near_text(need, known)
            yield one.find(
                "compatible.need-absent",
                main,
                lines["Requires Plugins"],
                need=need,
                near=near,
            )
    trail = _circle(one)
    if trail:
        yield one.find("compatible.circle", main, lines["Requires Plugins"], trail=" -> ".join(trail))


def _old(one: Examination, key: str, code: str, have: str) -> Iterator[Finding]:
    wanted = one.module.header.get(key)
    if one.module.main is not None and have and re.fullmatch(r"\d+(\.\d+)*", wanted):
        if _numbers(have) < _numbers(wanted):
            yield one.find(code, one.module.main, one.module.header.lines[key], wanted=wanted, have=have)


def old_php(one: Examination) -> Iterator[Finding]:
    """A PHP that is older than the header asks for: the one that runs the host."""
    yield from _old(one, "Requires PHP", "compatible.php-too-old", (one.answers.get("host") or {}).get("php", ""))


def needs_that_are_off(one: Examination) -> Iterator[Finding]:
    """Modules that a module which is on needs, and that are off."""
    module, view = one.module, one.view
    known = {other.name: other for other in view.modules}
    for need in module.needs:
        if one.on and need in known and view.is_on(known[need]) is False and module.main is not None:
            line = module.header.lines["Requires Plugins"]
            yield one.find("compatible.need-off", module.main, line, need=need)


def _numbers(version: str) -> list[int]:
    return [int(piece) for piece in re.findall(r"\d+", version.split("-")[0])]


def _circle(one: Examination) -> list[str]:
    known = {other.name: other.needs for other in one.view.modules}
    waiting = [[one.module.name]]
    while waiting:
        trail = waiting.pop()
        for need in known.get(trail[-1], ()):
            if need == one.module.name:
                return [*trail, need]
            if need not in trail:
                waiting.append([*trail, need])
    return []
