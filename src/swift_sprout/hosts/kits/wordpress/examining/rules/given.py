"""What the module gives to the host to be called or to be named: whether it is there, and whether it answers whole."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ......core.nearest import near_text
from ...reading.routes import rest_routes_of

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination


def uncallable(exam: Examination) -> Iterator[Finding]:
    """Functions that the host is given for its interface, blocks, fields and people's data, and that are not there."""
    told = set()
    judged = {route.address for route in rest_routes_of(exam.module)}  # with rules of their own
    given = [*(exam.answers.get("uncallable") or ()), *(exam.answers.get("uncallable_there") or ())]
    for one in given if exam.loaded else ():
        if (one["route"] and one["route"] in judged) or one["name"] in told:
            continue
        place = _saying(exam, one)
        if place is not None:
            told.add(one["name"])
            yield exam.find("registered.given-uncallable", *place, what=one["what"], name=one["name"])


def _saying(exam: Examination, one: dict[str, Any]) -> tuple[Path, int] | None:
    """Return where the module names a function that is not there; None where it is another's."""
    if one["file"] and not exam.holds(one["file"]):
        return None
    last = str(one["name"]).rpartition("::")[2]
    quoted = [f"{quote}{text}{quote}" for text in (one["name"], last) for quote in "'\""]
    return exam.line_saying(*quoted) or ((Path(one["file"]), 0) if one["file"] else None)


def lacking(exam: Examination) -> Iterator[Finding]:
    """Answers about people's data and the site's health in which the host misses something."""
    for what, one in (exam.answers.get("lacks") or {}).items() if exam.loaded else ():
        failed = (exam.answers.get("acted") or {}).get(what, {})
        if one["lacks"] and exam.holds(one["file"]) and not failed.get("fatal"):
            lacks = ", ".join(one["lacks"])
            yield exam.find("registered.given-lacks", one["file"], one["line"], what=what, lacks=lacks)


def unregistered(exam: Examination) -> Iterator[Finding]:
    """Categories, blocks, style sheets and scripts that the module's blocks and patterns name, and nobody registers."""
    here = exam.answers.get("unregistered") or ()
    also_there = {(what, name) for what, _, name, _ in exam.answers.get("unregistered_there") or ()}
    for what, sort, name, there in here if exam.loaded else ():
        if (what, name) not in also_there:
            continue  # it is registered where the editor is
        near = near_text(name, there)
        place = exam.line_saying(f"'{name}'", f'"{name}"', f"wp:{name}")
        own = exam.line_saying(f"'{what.rpartition(' ')[2]}'", f'"{what.rpartition(" ")[2]}"')
        if place is not None and own is not None and (near or sort in ("category", "block")):
            yield exam.find("placed.name-unregistered", *place, what=what, sort=sort, name=name, near=near)


#  folders whose files are loaded by others, or only when something is run by hand
_LOADED_BY_OTHERS = {"vendor", "node_modules", "tests", "test", "bin", "build", "dist", "languages", "examples"}
_BY_THE_HOST = {"uninstall.php", "index.php", "render.php", "functions.php"}
#  what loads files that it does not name
_LOADS_ANY = re.compile(rb"\b(spl_autoload_register|glob|scandir|DirectoryIterator|opendir|class_map|classmap)\b")


def never_loaded(exam: Examination) -> Iterator[Finding]:
    """Files in folders whose other files are named where they are loaded, and that no code names."""
    module = exam.module
    if not exam.loaded or module.single or any(_LOADS_ANY.search(held) for held in module.contents.values()):
        return
    loaded = {*(exam.answers.get("files") or ()), *(exam.answers.get("files_there") or ())}
    named = b"\n".join(held for held in module.contents.values())
    beside = {Path(file).parent for file in loaded if Path(file) != module.main and Path(file).name.encode() in named}
    for path in module.contents:
        below = set(path.relative_to(module.place).parts[:-1])
        aside = path == module.main or path.name in _BY_THE_HOST or _LOADED_BY_OTHERS & below or path.suffix != ".php"
        if aside or str(path) in loaded or path.parent not in beside or path.parent == module.place:
            continue  # in the module's own folder lie files for people to copy elsewhere
        held = module.contents[path]
        said = re.search(rb"\b" + re.escape(path.stem.encode()) + rb"\b", named.replace(held, b"", 1))
        if (
            not said
            and _DOES.search(_COMMENT.sub(b"", held))
            and not _may_be_composed(named, path.relative_to(module.place).as_posix())
        ):
            yield exam.find("registered.never-loaded", path, 1)


#  names of files that code puts together: what stands before the part that varies, and what behind it
_COMPOSED = re.compile(
    rb"([\w./-]*)\{?\$[^\s'\"{}.;]+\}?([\w-]*\.php)\b"
    rb"|['\"]([\w./-]*)['\"]\s*\.\s*[^;'\"]*\$[^;'\"]*\.\s*['\"]([\w./-]*\.php)\b"
    rb"|['\"]([\w./-]*/)['\"]\s*\.\s*\$\w+()\s*[;,)]"
)


def _may_be_composed(code: bytes, file: str) -> bool:
    """True where a name that code puts together may be that of a file, which is written from the module's folder on."""
    for found in _COMPOSED.finditer(code):
        before, behind = (part.decode("utf-8", "replace") for part in found.groups() if part is not None)
        if re.search(rf"(?:^|/){re.escape(before.strip('./'))}.*{re.escape(behind)}$", file):
            return True
    return False


_COMMENT = re.compile(rb"/\*.*?\*/|(?://|#)[^\n]*", re.DOTALL)
#  a file that is there to be loaded: it declares something, or hangs something on the host
_DOES = re.compile(
    rb"(?m)^\s*(?:final\s+|abstract\s+)?(?:class|trait|function)\s+\w|\badd_(?:action|filter|shortcode)\s*\("
)


def looks(exam: Examination) -> Iterator[Finding]:
    """What the module adds to the host's tool for looks: what breaks there, and what it names that is not there."""
    told = exam.answers.get("looks") or {} if exam.loaded else {}
    came = told.get("came") or {}
    fatal = came.get("fatal")
    if fatal and exam.holds(came["file"]):
        file, line = (fatal[2], fatal[3]) if exam.holds(fatal[2]) else (came["file"], came["line"])
        yield exam.find("served.action-fails", file, line, what="customize_register", reason=fatal[1])
    for control, sort, name, there in told.get("absent") or ():
        place = exam.line_saying(f"'{name}'", f'"{name}"') if exam.line_saying(f"'{control}'", f'"{control}"') else None
        if place is not None:
            what = f"the control {control}"
            yield exam.find(
                "placed.name-unregistered", *place, what=what, sort=sort, name=name, near=near_text(name, there)
            )
    for setting, name in told.get("uncallable") or ():
        place = exam.line_saying(f"'{name}'", f'"{name}"', f"'{name.rpartition('::')[2]}'")
        if place is not None:
            yield exam.find("registered.given-uncallable", *place, what=f"the setting {setting}", name=name)


def called_wrongly(exam: Examination) -> Iterator[Finding]:
    """Calls of functions that say themselves that they are called wrongly."""
    told = set()
    for _, watched in exam.watched if exam.loaded else ():
        for function, message, file, line in watched.wrong:
            if exam.holds(file) and (file, line) not in told:
                told.add((file, line))
                said = " ".join(message.split())[:160]
                yield exam.find("served.called-wrongly", file, line, function=function, reason=said)
