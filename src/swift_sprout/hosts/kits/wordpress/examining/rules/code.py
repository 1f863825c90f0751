"""Whether the code can be loaded: syntax, includes, classes, what hangs on hooks, and what it prints on the way."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ......core.nearest import misspelt, near_text

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
    "wp_add_dashboard_widget": 2,
    "spl_autoload_register": 0,
}


def syntax(exam: Examination) -> Iterator[Finding]:
    """Files that do not parse, and those that parse but do not compile."""
    if exam.compiled is None:
        for file in exam.module.files:
            if file.broken_line:
                yield exam.find("registered.syntax", file.path, file.broken_line, reason="it does not parse")
        return
    for path in exam.module.paths if exam.compiled else ():
        line, message = exam.compiled.get(str(path), (0, ""))
        if message.startswith("syntax error"):
            yield exam.find("registered.syntax", path, line, reason=message)
        elif message:
            yield exam.find("registered.does-not-compile", path, line, reason=message)


def includes(exam: Examination) -> Iterator[Finding]:
    """Files that are included and are not there."""
    for file in exam.module.reached_files:
        for target, said in exam.module.included_by(file):
            if exam.module.folder in target.parents and not target.exists() and not said.maybe:
                beside = [other.name for other in target.parent.glob("*.php")] if target.parent.is_dir() else []
                near = near_text(target.name, beside)
                yield exam.find("registered.include-absent", file.path, said.line, path=said.path, near=near)


def classes(exam: Examination) -> Iterator[Finding]:
    """Classes of the module's own namespace that its loader does not find where they should be."""
    module = exam.module
    if not module.namespace or module.single:
        return
    loader = any(True for _ in exam.calls("spl_autoload_register"))
    root = module.namespace.lower()
    told: set[str] = set()
    for file in module.loaded_files:
        for use in file.uses:
            name = use.name
            if not name.lower().startswith(root + "\\") or name.lower() in told:
                continue
            held = module.classes.get(name.lower())
            wanted = _where(exam, name)
            if held is None:
                told.add(name.lower())
                yield _absent(exam, name, wanted, file, use.line)
            elif loader and wanted is not None and held[1].path != wanted and not _included(exam, held[1]):
                told.add(name.lower())
                same = str(held[1].path).lower() == str(wanted).lower()
                code = "registered.class-file-spelling" if same else "registered.class-file"
                yield exam.find(code, held[1].path, held[0].line, name=name, wanted=exam.view.relative(wanted))
            elif not loader and not _included(exam, held[1]) and held[1] is not file:
                told.add(name.lower())
                yield exam.find(
                    "registered.class-not-loaded",
                    file.path,
                    use.line,
                    name=name,
                    holder=exam.view.relative(held[1].path),
                )
    for name, (held_class, holder) in module.classes.items():
        if holder in module.loaded_files and held_class.extends.lower().startswith(root + "\\") and name not in told:
            if held_class.extends.lower() not in module.classes:
                wanted = _where(exam, held_class.extends)
                yield _absent(exam, held_class.extends, wanted, holder, held_class.line)


def _where(exam: Examination, name: str) -> Path | None:
    """Return where the loader looks for a class of the module's namespace: PSR-4 below src/."""
    if not (exam.module.place / "src").is_dir():
        return None
    inner = name[len(exam.module.namespace) + 1 :].replace("\\", "/")
    return exam.module.place / "src" / f"{inner}.php"


def _absent(exam: Examination, name: str, wanted: Path | None, file: PhpFile, line: int) -> Finding:
    """Tell why a class is not there: its file is missing, or holds another namespace or name."""
    if wanted is not None and wanted.is_file():
        there = next((other for other in exam.module.files if other.path == wanted), None)
        if there is not None and there.classes:
            held = there.classes[0]
            short = name.rpartition("\\")[2]
            if held.name.rpartition("\\")[2].lower() == short.lower():
                return exam.find("registered.namespace", wanted, held.line, name=name, held=held.name)
            return exam.find("registered.class-name", wanted, held.line, name=name, held=held.name)
    known = [other.name for other, _ in exam.module.classes.values()]
    near = near_text(name, known)
    where = f" in {exam.view.relative(wanted)}" if wanted is not None else ""
    return exam.find("registered.class-absent", file.path, line, name=name, where=where, near=near)


def _included(exam: Examination, holder: PhpFile) -> bool:
    return holder.path == exam.module.main or holder.path in exam.module.included


def callbacks(exam: Examination) -> Iterator[Finding]:
    """Functions and methods that are given to the host to be called, and are not there or must not be called."""
    for file, call in exam.calls(*CALLED_LATER):
        position = CALLED_LATER[call.name]
        if len(call.nodes) <= position:
            continue
        target = file.target(call.nodes[position], call.inside[0])
        wrong = _wrong(exam, file, call, target)
        if wrong is not None:
            yield wrong


def _wrong(exam: Examination, file: PhpFile, call: Call, target: Target) -> Finding | None:
    module = exam.module
    hook = call.values[0] if call.values and isinstance(call.values[0], str) else ""
    where = f"the hook {hook}" if hook and call.name in ("add_action", "add_filter") else call.name
    if target.owner:
        held = module.classes.get(target.owner.lower())
        if held is None:
            return None
        whole = f"{target.owner}::{target.name}"
        if module.method(target.owner, target.name) is False:
            return _not_there(exam, file, target, whole, where, [each.name for each in held[0].methods.values()])
        method = held[0].methods.get(target.name.lower())
        if method is not None and not method.public and not target.bound:
            return exam.find("registered.callback-private", file.path, target.line, what=whole, where=where)
        return None
    root, name = module.namespace, target.name
    if not name or not name.replace("\\", "").replace("_", "").isalnum() or name.lower() in module.functions:
        return None
    if "\\" not in name and root and f"{root}\\{name}".lower() in module.functions:
        whole = f"{root}\\{name}"
        return exam.find("registered.callback-namespace", file.path, target.line, what=name, whole=whole, where=where)
    inside = root and name.lower().startswith(root.lower() + "\\")
    if inside or ("\\" not in name and like_own(exam, name) and (not call.maybe or misspelt(name, module.functions))):
        return _not_there(exam, file, target, name, where, list(module.functions))
    return None


def _not_there(exam: Examination, file: PhpFile, target: Target, what: str, where: str, known: list[str]) -> Finding:
    near = near_text(target.name, known)
    return exam.find("registered.callback-absent", file.path, target.line, what=what, where=where, near=near)


def like_own(exam: Examination, name: str) -> bool:
    """True when a function is named like those of the module, and nothing here has it: it must be one of them."""
    module = exam.module
    start = f"{module.name.replace('-', '_').lower()}_"
    if not name.lower().startswith((*module.own_prefixes, *((start,) if _begin_so(exam, start) else ()))):
        return False
    word = re.escape(name.encode())
    said = re.compile(rb"\bfunction\s+&?%b\s*\(|\b(?:function_exists|is_callable)\(\s*['\"]%b" % (word, word), re.I)
    return not any(said.search(content) for one in exam.view.modules for content in one.contents.values())


def _begin_so(exam: Examination, start: str) -> bool:
    return any(function.startswith(start) for function in exam.module.functions)


def functions(exam: Examination) -> Iterator[Finding]:
    """Functions that are called, named like the module's own, and are not there or not loaded."""
    module = exam.module
    known = module.functions
    reached = module.reached_files
    sure = all(file.unread == 0 for file in reached)
    told: set[str] = set()
    for file in reached:
        for name, line in (*file.called.items(), *file.called_maybe.items()):
            key = name.lower()
            if name in file.called_maybe and name not in file.called and misspelt(key, known) is None:
                continue  # it may be of a module that need not be there
            if key in told or f"{file.namespace}\\{name}".lower() in known or key in file.aliases:
                continue
            held = known.get(key)
            if held is None and like_own(exam, name):
                told.add(key)
                yield exam.find(
                    "registered.function-absent", file.path, line, name=name, near=near_text(key, list(known))
                )
            elif held is not None and sure and held[1] not in reached and key.startswith((*module.own_prefixes,)):
                told.add(key)
                holder = exam.view.relative(held[1].path)
                path, at = _loads_beside(exam, held[1].path) or (file.path, line)
                calls = f"{exam.view.relative(file.path)}:{line}"
                yield exam.find("registered.function-not-loaded", path, at, name=name, holder=holder, calls=calls)


def _loads_beside(exam: Examination, path: Path) -> tuple[Path, int] | None:
    """Return where the files that lie beside one are loaded, the last of them: there it was forgotten."""
    found = [
        (file.path, said.line)
        for file in exam.module.reached_files
        for target, said in exam.module.included_by(file)
        if target.parent == path.parent
    ]
    return found[-1] if found else None


def loader(exam: Examination) -> Iterator[Finding]:
    """Loaders of classes for a namespace that the module does not have, where none of them is for one it has."""
    spaces = {held.name.rpartition("\\")[0] for held, _ in exam.module.classes.values() if "\\" in held.name}
    found: list[tuple[PhpFile, int, str]] = []
    for file in exam.module.files_saying(["spl_autoload_register"]) if spaces else ():
        text = file.text
        for match in re.finditer(r"(['\"])((?:\w+\\\\?)+)\1", text):
            said = match.group(2).replace("\\\\", "\\").rstrip("\\")
            if any(f"{space}\\".startswith(f"{said}\\") for space in spaces):
                return
            found.append((file, text.count("\n", 0, match.start()) + 1, said))
    for file, line, said in found:
        roots = {"\\".join(space.split("\\")[: said.count("\\") + 1]) for space in spaces}
        near = near_text(said, roots)
        if said and near:
            yield exam.find("registered.loader-space", file.path, line, space=said, near=near)
            return


def begun(exam: Examination) -> Iterator[Finding]:
    """Classes with a method ``boot`` that nobody calls, while others of the module are begun that way."""
    module = exam.module
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
            yield exam.find("registered.never-begun", file.path, held.methods["boot"].line, name=held.name)


def activation(exam: Examination) -> Iterator[Finding]:
    """Activation that the host never calls: hung on another file than the main one, or not hung at all."""
    module = exam.module
    if module.main is None:
        return
    hung = list(exam.calls("register_activation_hook"))
    for file, call in hung:
        said = "".join((call.nodes[0].text or b"").decode("utf-8", "replace").split()) if call.nodes else ""
        if said == "__FILE__" and file.path != module.main:
            yield exam.find("registered.activation-file", file.path, call.line, main=exam.view.relative(module.main))
    if not hung:
        makes = next(((file, call) for file, call in exam.calls("dbDelta", "add_role") if call.inside[1]), None)
        installer = module.classes.get(f"{module.namespace}\\install".lower())
        if makes is not None and installer is not None and "activate" in installer[0].methods:
            yield exam.find(
                "registered.no-activation",
                module.main,
                1,
                holder=exam.view.relative(makes[0].path),
                function="Install::activate",
            )
        elif makes is not None and "activ" in makes[1].inside[1].lower():
            yield exam.find(
                "registered.no-activation",
                module.main,
                1,
                holder=exam.view.relative(makes[0].path),
                function=makes[1].inside[1],
            )


def prints(exam: Examination) -> Iterator[Finding]:
    """Files that print as soon as they are loaded: before the host has sent its headers."""
    module = exam.module
    loaded = [
        file
        for file in module.loaded_files
        if file.path == module.main or file.path in module.loaded_as_code or file.path.parent.name == "src"
    ]
    for file in loaded:
        line = file.prints()
        if line and file.path.parts[-2] not in ("templates", "views"):
            what = (
                "a byte order mark or blank lines before <?php"
                if line == 1 and file.content[:2] != b"<?"
                else "text or echo outside of any function"
            )
            yield exam.find("registered.prints", file.path, line, what=what)
        elif b"?>" in file.content and not _draws(file):
            tail = file.content.rpartition(b"?>")[2]
            if tail.strip(b"\n") == b"" and tail.count(b"\n") > 1:
                yield exam.find("registered.prints", file.path, file.content.count(b"\n"), what="blank lines behind ?>")


def _draws(file: PhpFile) -> bool:
    """True for a file that is a page or a part of one: what stands behind its last ?> is text."""
    return file.content.count(b"?>") > 1 or file.path.parent.name in ("templates", "views", "partials")


def names_twice(exam: Examination) -> Iterator[Finding]:
    """Functions and classes that two modules define: the second one breaks the host."""
    for other in exam.view.modules:
        if other is exam.module or (exam.on and not exam.view.is_on(other)):
            continue
        if other.namespace and exam.module.namespace and other.namespace != exam.module.namespace:
            continue
        for kind, mine, theirs in (
            ("function", exam.module.functions, other.functions),
            ("class", exam.module.classes, other.classes),
        ):
            both = sorted(set(mine) & set(theirs))
            if not both:
                continue
            places = [_place(held[both[0]]) for held in (mine, theirs)]
            if any(_conditional(file, line) for file, line in places):
                continue
            if other.name < exam.module.name or other.name not in exam.beside:
                file, line = places[0]
                yield exam.find(
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
    lines = file.text.splitlines()[max(0, line - 4) : line]
    return any("_exists" in text for text in lines)


#  what PHP says of a slip of the pen; many of its other warnings on a screen come from options that are not set yet
_SLIP = re.compile(r"Undefined (variable|property|constant)|(include|require)(_once)?\(")


#  what the host says of calls of its functions, where it says warnings; told by a rule of its own (6.1)
CALLED_WRONGLY = re.compile(r"Function \S+ was called <strong>incorrectly")


def loading(exam: Examination) -> Iterator[Finding]:
    """What the running host met while it loaded the module."""
    broke = exam.broke
    if broke is not None:
        place, line, at = exam.place_of(broke)
        code = "registered.hangs" if broke.sort == "time" else "registered.breaks-host"
        yield exam.find(code, place, line, reason=broke.said, at=at)
        return
    if exam.asked is None or not exam.on:
        return
    printed = (exam.asked.boot.guard.get("output") or {}).get(exam.module.key)
    if printed and exam.module.main is not None:
        yield exam.find("registered.printed", exam.module.main, 1, text=" ".join(printed.split())[:60] or "blank lines")
    told: set[tuple[str, int, str]] = set()
    for boot in exam.asked.boots:
        for _, message, file, line in boot.guard.get("problems") or []:
            here = exam.holds(file) and (file, line, message) not in told
            if here and (boot is exam.asked.boot or _SLIP.match(message)) and not CALLED_WRONGLY.match(message):
                told.add((file, line, message))
                yield exam.find("registered.warns", file, line, reason=" ".join(message.split())[:200])
    for hook in exam.hooks:
        if not hook["callable"]:
            yield exam.find("registered.hook-uncallable", hook["file"], 0, what=hook["name"], hook=hook["hook"])
