"""Whether the code can be loaded: syntax, includes, classes, what hangs on hooks, and what it prints on the way."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ......core.nearest import near_text
from ...reading.modules import joined

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ...reading.phpfile import Call, PhpFile, Target
    from ..examination import Examination

#  which argument of each function of the host is called later
CALLED_LATER = {
    "add_action": 1,
    "add_filter": 1,
    "add_shortcode": 1,
    "register_activation_hook": 1,
    "register_deactivation_hook": 1,
    "register_uninstall_hook": 1,
    "add_menu_page": 4,
    "add_submenu_page": 5,
    "add_options_page": 4,
    "add_meta_box": 2,
    "add_settings_field": 2,
    "spl_autoload_register": 0,
}


def syntax(one: Examination) -> Iterator[Finding]:
    """Files that do not parse, and those that parse but do not compile."""
    if one.compiled is None:
        for file in one.module.files:
            if file.broken_line:
                yield one.find("registered.syntax", file.path, file.broken_line, reason="it does not parse")
        return
    for path in one.module.paths if one.compiled else ():
        line, message = one.compiled.get(str(path), (0, ""))
        if message.startswith("syntax error"):
            yield one.find("registered.syntax", path, line, reason=message)
        elif message:
            yield one.find("registered.does-not-compile", path, line, reason=message)


def includes(one: Examination) -> Iterator[Finding]:
    """Files that are included and are not there."""
    for file in one.module.reached_files:
        for path, line in file.includes:
            target = joined(file.path.parent, path)
            if one.module.folder in target.parents and not target.exists():
                beside = [other.name for other in target.parent.glob("*.php")] if target.parent.is_dir() else []
                near = near_text(target.name, beside)
                yield one.find("registered.include-absent", file.path, line, path=path, near=near)


def classes(one: Examination) -> Iterator[Finding]:
    """Classes of the module's own namespace that its loader does not find where they should be."""
    module = one.module
    if not module.namespace or module.single:
        return
    loader = any(True for _ in one.calls("spl_autoload_register"))
    root = module.namespace.lower()
    told: set[str] = set()
    for file in module.loaded_files:
        for use in file.uses:
            name = use.name
            if not name.lower().startswith(root + "\\") or name.lower() in told:
                continue
            held = module.classes.get(name.lower())
            wanted = _where(one, name)
            if held is None:
                told.add(name.lower())
                yield _absent(one, name, wanted, file, use.line)
            elif loader and wanted is not None and held[1].path != wanted and not _included(one, held[1]):
                told.add(name.lower())
                same = str(held[1].path).lower() == str(wanted).lower()
                code = "registered.class-file-spelling" if same else "registered.class-file"
                yield one.find(code, held[1].path, held[0].line, name=name, wanted=one.view.relative(wanted))
            elif not loader and not _included(one, held[1]) and held[1] is not file:
                told.add(name.lower())
                yield one.find(
                    "registered.class-not-loaded",
                    file.path,
                    use.line,
                    name=name,
                    holder=one.view.relative(held[1].path),
                )
    for name, (held_class, holder) in module.classes.items():
        if holder in module.loaded_files and held_class.extends.lower().startswith(root + "\\") and name not in told:
            if held_class.extends.lower() not in module.classes:
                wanted = _where(one, held_class.extends)
                yield _absent(one, held_class.extends, wanted, holder, held_class.line)


def _where(one: Examination, name: str) -> Path | None:
    """Return where the loader looks for a class of the module's namespace: PSR-4 below src/."""
    if not (one.module.place / "src").is_dir():
        return None
    inner = name[len(one.module.namespace) + 1 :].replace("\\", "/")
    return one.module.place / "src" / f"{inner}.php"


def _absent(one: Examination, name: str, wanted: Path | None, file: PhpFile, line: int) -> Finding:
    """Tell why a class is not there: its file is missing, or holds another namespace or name."""
    if wanted is not None and wanted.is_file():
        there = next((other for other in one.module.files if other.path == wanted), None)
        if there is not None and there.classes:
            held = there.classes[0]
            short = name.rpartition("\\")[2]
            if held.name.rpartition("\\")[2].lower() == short.lower():
                return one.find("registered.namespace", wanted, held.line, name=name, held=held.name)
            return one.find("registered.class-name", wanted, held.line, name=name, held=held.name)
    known = [other.name for other, _ in one.module.classes.values()]
    near = near_text(name, known)
    where = f" in {one.view.relative(wanted)}" if wanted is not None else ""
    return one.find("registered.class-absent", file.path, line, name=name, where=where, near=near)


def _included(one: Examination, holder: PhpFile) -> bool:
    return holder.path == one.module.main or holder.path in one.module.included


def callbacks(one: Examination) -> Iterator[Finding]:
    """Functions and methods that are given to the host to be called, and are not there or must not be called."""
    for file, call in one.calls(*CALLED_LATER):
        position = CALLED_LATER[call.name]
        if len(call.nodes) <= position:
            continue
        target = file.target(call.nodes[position], call.inside[0])
        wrong = _wrong(one, file, call, target)
        if wrong is not None:
            yield wrong


def _wrong(one: Examination, file: PhpFile, call: Call, target: Target) -> Finding | None:
    module = one.module
    hook = call.values[0] if call.values and isinstance(call.values[0], str) else ""
    where = f"the hook {hook}" if hook and call.name in ("add_action", "add_filter") else call.name
    if target.owner:
        held = module.classes.get(target.owner.lower())
        if held is None:
            return None
        whole = f"{target.owner}::{target.name}"
        if module.method(target.owner, target.name) is False:
            return _not_there(one, file, target, whole, where, [each.name for each in held[0].methods.values()])
        method = held[0].methods.get(target.name.lower())
        if method is not None and not method.public:
            return one.find("registered.callback-private", file.path, target.line, what=whole, where=where)
        return None
    root, name = module.namespace, target.name
    if not name or not name.replace("\\", "").replace("_", "").isalnum() or name.lower() in module.functions:
        return None
    if "\\" not in name and root and f"{root}\\{name}".lower() in module.functions:
        whole = f"{root}\\{name}"
        return one.find("registered.callback-namespace", file.path, target.line, what=name, whole=whole, where=where)
    inside = root and name.lower().startswith(root.lower() + "\\")
    if inside or ("\\" not in name and not root and _like_own(one, name)):
        return _not_there(one, file, target, name, where, list(module.functions))
    return None


def _not_there(one: Examination, file: PhpFile, target: Target, what: str, where: str, known: list[str]) -> Finding:
    near = near_text(target.name, known)
    return one.find("registered.callback-absent", file.path, target.line, what=what, where=where, near=near)


def _like_own(one: Examination, name: str) -> bool:
    """True when a function is named like those of the module, so that it must be one of them."""
    start = one.module.name.replace("-", "_").lower() + "_"
    own = [function for function in one.module.functions if function.startswith(start)]
    return name.lower().startswith(start) and bool(own)


def begun(one: Examination) -> Iterator[Finding]:
    """Classes with a method ``boot`` that nobody calls, while others of the module are begun that way."""
    module = one.module
    called = {(use.name.lower(), use.method) for file in module.loaded_files for use in file.uses}
    if not any(method == "boot" for _, method in called):
        return
    for name, (held, file) in module.classes.items():
        if (
            "boot" in held.methods
            and held.methods["boot"].static
            and (name, "boot") not in called
            and file in module.loaded_files
        ):
            yield one.find("registered.never-begun", file.path, held.methods["boot"].line, name=held.name)


def activation(one: Examination) -> Iterator[Finding]:
    """Activation that the host never calls: hung on another file than the main one, or not hung at all."""
    module = one.module
    if module.main is None:
        return
    hung = list(one.calls("register_activation_hook"))
    for file, call in hung:
        said = "".join((call.nodes[0].text or b"").decode("utf-8", "replace").split()) if call.nodes else ""
        if said == "__FILE__" and file.path != module.main:
            yield one.find("registered.activation-file", file.path, call.line, main=one.view.relative(module.main))
    if not hung:
        makes = next(((file, call) for file, call in one.calls("dbDelta", "add_role") if call.inside[1]), None)
        installer = module.classes.get(f"{module.namespace}\\install".lower())
        if makes is not None and installer is not None and "activate" in installer[0].methods:
            yield one.find(
                "registered.no-activation",
                module.main,
                1,
                holder=one.view.relative(makes[0].path),
                function="Install::activate",
            )
        elif makes is not None and "activ" in makes[1].inside[1].lower():
            yield one.find(
                "registered.no-activation",
                module.main,
                1,
                holder=one.view.relative(makes[0].path),
                function=makes[1].inside[1],
            )


def prints(one: Examination) -> Iterator[Finding]:
    """Files that print as soon as they are loaded: before the host has sent its headers."""
    module = one.module
    loaded = [
        file
        for file in module.loaded_files
        if file.path == module.main or _included(one, file) or file.path.parent.name == "src"
    ]
    for file in loaded:
        line = file.prints()
        if line and file.path.parts[-2] not in ("templates", "views"):
            what = (
                "a byte order mark or blank lines before <?php"
                if line == 1 and file.content[:2] != b"<?"
                else "text or echo outside of any function"
            )
            yield one.find("registered.prints", file.path, line, what=what)
        elif file.path == module.main and b"?>" in file.content:
            tail = file.content.rpartition(b"?>")[2]
            if tail.strip(b"\n") == b"" and tail.count(b"\n") > 1:
                yield one.find("registered.prints", file.path, file.content.count(b"\n"), what="blank lines behind ?>")


def names_twice(one: Examination) -> Iterator[Finding]:
    """Functions and classes that two modules define: the second one breaks the host."""
    for other in one.view.modules:
        if other is one.module:
            continue
        if other.namespace and one.module.namespace and other.namespace != one.module.namespace:
            continue
        for kind, mine, theirs in (
            ("function", one.module.functions, other.functions),
            ("class", one.module.classes, other.classes),
        ):
            both = sorted(set(mine) & set(theirs))
            if not both:
                continue
            places = [_place(held[both[0]]) for held in (mine, theirs)]
            if any(_conditional(file, line) for file, line in places):
                continue
            if other.name < one.module.name:
                file, line = places[0]
                yield one.find(
                    "registered.name-twice",
                    file.path,
                    line,
                    kind=kind,
                    name=both[0],
                    other=other.name,
                    count=len(both),
                )
            return


def _place(held: tuple[Any, Any]) -> tuple[PhpFile, int]:
    """Return file and line of a function (line, file) or a class (class, file)."""
    first, file = held
    return file, first if isinstance(first, int) else first.line


def _conditional(file: PhpFile, line: int) -> bool:
    lines = file.content.decode("utf-8", "replace").splitlines()[max(0, line - 4) : line]
    return any("_exists" in text for text in lines)


def loading(one: Examination) -> Iterator[Finding]:
    """What the running host met while it loaded the module."""
    broke = one.broke
    if broke is not None:
        inside = one.holds(broke.file)
        place = Path(broke.file) if inside else (one.module.main or one.module.place)
        at = "" if inside else f" (in {one.view.relative(Path(broke.file))}:{broke.line})"
        code = "registered.hangs" if broke.sort == "time" else "registered.breaks-host"
        yield one.find(code, place, broke.line if inside else 0, reason=broke.said, at=at)
        return
    if one.asked is None or not one.on:
        return
    printed = (one.asked.boot.guard.get("output") or {}).get(one.module.key)
    if printed and one.module.main is not None:
        yield one.find("registered.printed", one.module.main, 1, text=" ".join(printed.split())[:60] or "blank lines")
    for _, message, file, line in one.asked.boot.guard.get("problems") or []:
        if one.holds(file):
            yield one.find("registered.warns", file, line, reason=" ".join(message.split())[:200])
    for hook in one.answers.get("hooks") or []:
        if not hook["callable"] and one.holds(hook["file"]):
            yield one.find("registered.hook-uncallable", hook["file"], 0, what=hook["name"], hook=hook["hook"])
