"""Whether the host sees the module, what its header says, and whether what it needs is there."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from ......core.nearest import near_text
from ...reading.header import READ_BYTES

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination

_VERSION = re.compile(r"\d+(\.\d+)*([.-]?[A-Za-z][\w.+-]*)?\Z")


def seen(exam: Examination) -> Iterator[Finding]:
    """A main file that the host does not see, sees twice, or would have to look for too deep."""
    module = exam.module
    if len(module.mains) > 1:
        others = ", ".join(exam.view.relative(path) for path, _ in module.mains)
        yield exam.find("found.two-main-files", module.mains[1][0], 1, count=len(module.mains), files=others)
    if module.mains:
        return
    deeper = (
        [path for path in module.place.glob("*/*.php") if "Plugin Name:" in _head(path)] if not module.single else []
    )
    if deeper:
        yield exam.find("found.too-deep", deeper[0], 1, folder=exam.view.relative(deeper[0].parent))
        return
    nearly = module.nearly()
    if nearly is not None:
        path, line = nearly
        texts = path.read_bytes().split(b"\n")
        offset = sum(len(text) + 1 for text in texts[: line - 1])
        said = texts[line - 1].decode("utf-8", "replace").strip(" */#\t\r")
        if offset > READ_BYTES and re.match(r"Plugin Name:", said, re.IGNORECASE):
            yield exam.find("found.header-too-far", path, line, bytes=offset)
        elif re.match(r"Plugin Name:\s*\Z", said, re.IGNORECASE):
            yield exam.find("found.name-empty", path, line)
        else:
            yield exam.find("found.name-misspelled", path, line, said=said[:60])
        return
    main = next(iter(sorted(module.place.glob("*.php"))), module.place) if not module.single else module.place
    yield exam.find("found.no-header", main, 1 if main.is_file() else 0)


def _head(path: object) -> str:
    return Path(str(path)).read_bytes()[:READ_BYTES].decode("utf-8", "replace")


def header(exam: Examination) -> Iterator[Finding]:
    """Header lines that the host cannot use, or that tell something wrong."""
    module = exam.module
    if module.main is None:
        return
    said, lines, main = module.header.values, module.header.lines, module.main
    if "Version" not in said:
        yield exam.find("described.no-version", main, lines["Plugin Name"])
    elif not _VERSION.match(said["Version"]):
        yield exam.find("described.version", main, lines["Version"], version=said["Version"])
    for key in ("Requires PHP", "Requires at least"):
        if key in said and not re.fullmatch(r"\d+(\.\d+)*", said[key]):
            yield exam.find("described.requirement", main, lines[key], key=key, said=said[key])
    if not module.single and "Domain Path" in said:
        folder = module.place / said["Domain Path"].strip("/")
        if not folder.is_dir() and any(module.place.rglob("*.mo")):
            yield exam.find("described.domain-path", main, lines["Domain Path"], path=said["Domain Path"])
    yield from _domain(exam)


def _domain(exam: Examination) -> Iterator[Finding]:
    """Texts are asked for in another domain than the one that is loaded."""
    asked: dict[str, tuple[object, int, int]] = {}
    for file, call in exam.calls("__", "_e", "esc_html__", "esc_html_e", "esc_attr__", "esc_attr_e"):
        domain = call.values[1] if len(call.values) > 1 else None
        if isinstance(domain, str):
            place, line, count = asked.get(domain, (file.path, call.line, 0))
            asked[domain] = (place, line, count + 1)
    loaded = {call.values[0] for _, call in exam.calls("load_plugin_textdomain", "load_textdomain") if call.values}
    if not asked or not loaded or None in loaded:
        return
    for domain, (path, line, count) in sorted(asked.items()):
        if domain not in loaded and domain != "default":
            near = near_text(domain, [str(name) for name in loaded])
            yield exam.find(
                "described.text-domain",
                str(path),
                line,
                domain=domain,
                count=count,
                loaded=", ".join(sorted(map(str, loaded))),
                near=near,
            )


def requirements(exam: Examination) -> Iterator[Finding]:
    """The host, PHP and other modules that the header asks for."""
    module, view = exam.module, exam.view
    if module.main is None:
        return
    _said, lines, main = module.header.values, module.header.lines, module.main
    yield from _old(exam, "Requires at least", "compatible.host-too-old", view.version)
    known = {other.name: other for other in view.modules}
    for need in module.needs:
        if need not in known:
            near = near_text(need, known)
            yield exam.find(
                "compatible.need-absent",
                main,
                lines["Requires Plugins"],
                need=need,
                near=near,
            )
    trail = _circle(exam)
    if trail:
        yield exam.find("compatible.circle", main, lines["Requires Plugins"], trail=" -> ".join(trail))


def _old(exam: Examination, key: str, code: str, have: str) -> Iterator[Finding]:
    wanted = exam.module.header.get(key)
    if exam.module.main is not None and have and re.fullmatch(r"\d+(\.\d+)*", wanted):
        if _numbers(have) < _numbers(wanted):
            yield exam.find(code, exam.module.main, exam.module.header.lines[key], wanted=wanted, have=have)


def old_php(exam: Examination) -> Iterator[Finding]:
    """A PHP that is older than the header asks for: the one that runs the host."""
    yield from _old(exam, "Requires PHP", "compatible.php-too-old", (exam.answers.get("host") or {}).get("php", ""))


def needs_that_are_off(exam: Examination) -> Iterator[Finding]:
    """Modules that a module which is on needs, and that are off."""
    module, view = exam.module, exam.view
    known = {other.name: other for other in view.modules}
    for need in module.needs:
        if exam.on and need in known and view.is_on(known[need]) is False and module.main is not None:
            line = module.header.lines["Requires Plugins"]
            yield exam.find("compatible.need-off", module.main, line, need=need)


def _numbers(version: str) -> list[int]:
    return [int(piece) for piece in re.findall(r"\d+", version.split("-")[0])]


def _circle(exam: Examination) -> list[str]:
    known = {other.name: other.needs for other in exam.view.modules}
    waiting = [[exam.module.name]]
    while waiting:
        trail = waiting.pop()
        for need in known.get(trail[-1], ()):
            if need == exam.module.name:
                return [*trail, need]
            if need not in trail:
                waiting.append([*trail, need])
    return []
