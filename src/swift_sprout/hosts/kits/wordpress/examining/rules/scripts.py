"""What the module's scripts name: actions that the host shall answer, and blocks that its files describe."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from ......core.nearest import misspelt, said_near
from .drawn import PUT_TOGETHER, TAKES_IN

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination

LARGEST = 200_000  # bytes of a script that people write; larger ones come out of a build
_ACTION = re.compile(r"""\baction['"]?\s*[:,]\s*['"]([\w-]{5,})['"]""")
_BLOCK = re.compile(r"""\bregisterBlockType\(\s*['"]([a-z0-9-]+/[a-z0-9-]+)['"]""")
_STARTS = ("wp_ajax_nopriv_", "wp_ajax_", "admin_post_nopriv_", "admin_post_")


def actions(exam: Examination) -> Iterator[Finding]:
    """Actions that scripts send and that nothing answers, where the module answers one of nearly that name."""
    hooked = {
        call.values[0].removeprefix(start)
        for _, call in exam.calls("add_action")
        if call.values and isinstance(call.values[0], str)
        for start in _STARTS
        if call.values[0].startswith(start)
    }
    for path, text in _scripts(exam) if hooked else ():
        for found in _ACTION.finditer(text):
            meant = misspelt(found.group(1), hooked)
            if found.group(1) not in hooked and meant:
                line = text.count("\n", 0, found.start(1)) + 1
                yield exam.find("placed.script-action", path, line, action=found.group(1), near=said_near(meant))


_TO_HOST = re.compile(r"(?i)ajax_?url|admin-ajax|\bwp\.ajax\b")


def unanswered(exam: Examination) -> Iterator[Finding]:
    """Actions that scripts send to the host and that begin as the module's own, of which nothing hangs on its hooks."""
    sending = [(path, text) for path, text in _scripts(exam) if _TO_HOST.search(text)] if exam.loaded else []
    if not sending:
        return
    contents = exam.module.contents
    begun = tuple(name.decode() for content in contents.values() for name in PUT_TOGETHER.findall(content))
    written = {name.decode() for content in contents.values() for name in TAKES_IN.findall(content)}
    hooked = {hook["hook"] for hook in exam.hooks if hook["hook"].startswith(_STARTS)}
    answered = {_action(name) for name in {*hooked, *written} if name.startswith(_STARTS)}
    own = {_first_word(action) for action in answered}
    known = {_action(name) for name in exam.hooked if name.startswith(_STARTS)}
    for path, text in sending:
        for found in _ACTION.finditer(text):
            action = found.group(1)
            may_be = f"wp_ajax_{action}".startswith(begun) and not {f"wp_ajax_{one}" for one in answered} & hooked
            if action in {*answered, *known} or misspelt(action, answered) or may_be or _first_word(action) not in own:
                continue
            line = text.count("\n", 0, found.start(1)) + 1
            yield exam.find("placed.script-action", path, line, action=action, near="")


def _action(hook: str) -> str:
    return next((hook.removeprefix(start) for start in _STARTS if hook.startswith(start)), "")


def _first_word(action: str) -> str:
    return re.split(r"[_-]", action, maxsplit=1)[0]


_GLOBAL = re.compile(r"(?<![\w.$])([A-Za-z_$][\w$]{3,})\s*[.\[]")


def objects(exam: Examination) -> Iterator[Finding]:
    """Data that the module hands to its scripts by a name that none of them says, though one says nearly that."""
    texts = [text for _, text in _scripts(exam)]
    names = {name for text in texts for name in _GLOBAL.findall(text)}
    declared = {name for text in texts for name in re.findall(r"\b(?:var|let|const|function|class)\s+([\w$]+)", text)}
    for file, call in exam.calls("wp_localize_script") if names else ():
        name = call.values[1] if len(call.values) > 1 else None
        if not isinstance(name, str) or any(re.search(rf"(?<![\w$]){re.escape(name)}(?![\w$])", one) for one in texts):
            continue
        near = misspelt(name, names - declared)
        if near:
            yield exam.find("placed.script-object", file.path, call.line, name=name, near=near)


def blocks(exam: Examination) -> Iterator[Finding]:
    """Blocks that scripts register by another name than the one that is described."""
    if exam.module.single:
        return
    names = set()
    for described in exam.module.place.rglob("block.json"):
        try:
            names.add(str(json.loads(described.read_text("utf-8")).get("name", "")))
        except (OSError, ValueError, AttributeError):
            continue  # told by the rule on descriptions
    for path, text in _scripts(exam) if names else ():
        for found in _BLOCK.finditer(text):
            meant = misspelt(found.group(1), names)
            if found.group(1) not in names and meant:
                line = text.count("\n", 0, found.start(1)) + 1
                yield exam.find("placed.script-block", path, line, name=found.group(1), near=meant)


def _scripts(exam: Examination) -> Iterator[tuple[Path, str]]:
    """Yield the scripts that people wrote, with their text."""
    if exam.module.single:
        return
    for path in sorted(exam.module.place.rglob("*.js")):
        below = path.relative_to(exam.module.place).parts
        if {"node_modules", "vendor", "build", "dist"} & set(below) or path.name.endswith(".min.js"):
            continue
        if path.is_file() and path.stat().st_size <= LARGEST:
            yield path, path.read_text("utf-8", "replace")
