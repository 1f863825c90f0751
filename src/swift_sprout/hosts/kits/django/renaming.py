"""A renamed module's migrations: the database knows them as done, and its tables and content types take the new name.

Each migration says that it replaces the one of the old name: the host then counts it as applied where that one was
(its own rule for migrations that stand for others, 5.2). One more renames what the database holds.
"""

from __future__ import annotations

import ast
import re
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from ....core.errors import Refused
from ....core.renaming.spellings import Renaming
from ...shared.generating import templates_of
from ...shared.rendering import python_text, tidy_python
from .indexes import renamed_indexes

if TYPE_CHECKING:
    from .reading.modules import ModuleFiles
    from .view import HostView

_NUMBERED = re.compile(r"(\d+)_\w+\.py")


def carry_data(
    view: HostView,
    module: ModuleFiles,
    groups: Sequence[str],
    renaming: Renaming,
    moves: Mapping[str, str],
    files: Mapping[str, bytes],
) -> dict[str, bytes]:
    """Return the module's migrations with what they replace, and one more that renames what the database holds.

    groups -- the names of the groups that the module brings
    """
    has_name = module.label == module.name.rpartition(".")[2]
    label = renaming.apply(module.label) if has_name else module.label  # a label of its own keeps its tables
    start = f"{view.relative(module.folder)}/migrations/"
    ours = {path: moved for path, moved in moves.items() if path.startswith(start) and _number(path)}
    if label == module.label or not ours:
        return {}
    originals = [(view.root / path).read_text("utf-8") for path in sorted(ours, key=_number)]
    indexes = renamed_indexes(originals, module.label, label)
    found = {}
    for path, moved in ours.items():
        content = files[moved]
        for _, before, _ in indexes:  # the database has them under their old names until they are renamed there
            content = content.replace(f'"{renaming.apply(before)}"'.encode(), f'"{before}"'.encode())
            content = content.replace(f"'{renaming.apply(before)}'".encode(), f"'{before}'".encode())
        found[moved] = _replacing(content, moved, (module.label, label), _stem(path))
    newest = max(ours.values(), key=_number)
    renamed = [(one, renaming.apply(one)) for one in groups if renaming.apply(one) != one]
    values = {
        "old": module.label,
        "new": label,
        "leaf": _stem(newest),
        "types": any(str(entry.value) == "django.contrib.contenttypes" for entry in view.listed),
        "indexes": [{"model": model, "before": before, "now": now} for model, before, now in indexes],
        "groups": [{"names": [{"before": one, "now": to} for one, to in renamed]}] if renamed else [],
    }
    text = tidy_python(templates_of(view.data).fill("taken_over.py.mustache", values))
    folder = newest.rpartition("/")[0]
    found[f"{folder}/{_number(newest) + 1:04d}_renamed_from_{module.label}.py"] = text.encode()
    return found


def without_past(path: str, content: bytes) -> bytes:
    """Return a migration for a copy of its module: it replaces nothing, and takes nothing over."""
    if not _number(path) or "/migrations/" not in path:
        return content
    text = _REPLACES.sub("", content.decode("utf-8", "surrogateescape"))
    if "_renamed_from_" in path:
        text = _TAKES_OVER.sub("", text)
    return text.encode("utf-8", "surrogateescape")


#  as they are written here and in the template
_REPLACES = re.compile(r"^[ \t]+replaces = \[[^\]]*\]\n\n?", re.MULTILINE)
_TAKES_OVER = re.compile(r"^ +# nothing to take back: .*\n +migrations\.RunPython\(take_over, .*\n", re.MULTILINE)


def _number(path: str) -> int:
    """Return the number of a migration; 0 for a file that is none."""
    named = _NUMBERED.fullmatch(path.rpartition("/")[2])
    return int(named[1]) if named else 0


def _stem(path: str) -> str:
    return path.rpartition("/")[2].removesuffix(".py")


def _replacing(content: bytes, path: str, labels: tuple[str, str], name: str) -> bytes:
    """Return a migration that says which one of the old name it replaces.

    labels -- the old one and the new; a migration that comes back to a name it had is known to the database under it
    """
    old, new = labels
    text = content.decode("utf-8")
    classes = [node for node in ast.parse(text).body if isinstance(node, ast.ClassDef)]
    found = next((node for node in classes if node.name == "Migration"), None)
    said = next((node for node in found.body if _assigns(node, "replaces")), None) if found is not None else None
    earlier = _labels_in(said)
    if found is None or earlier & {old}:
        reason = "has no class Migration" if found is None else "stands for several of the module"
        raise Refused(
            "migration-unclear",
            f"{path} {reason}; nothing was changed.",
            "Finish squashing first: apply it everywhere, and remove what it replaces.",
        )
    lines = text.splitlines(keepends=True)
    first = found.body[0]
    if isinstance(first, ast.Expr) and isinstance(first.value, ast.Constant) and len(found.body) > 1:
        first = found.body[1]
    indent = " " * first.col_offset
    wanted = "" if new in earlier else f"{indent}replaces = [({python_text(old)}, {python_text(name)})]\n"
    if said is not None:
        assert said.end_lineno is not None
        blank = not wanted and not "".join(lines[said.end_lineno : said.end_lineno + 1]).strip()
        lines[said.lineno - 1 : said.end_lineno + blank] = [wanted] if wanted else []
    elif wanted:
        lines.insert(first.lineno - 1, f"{wanted}\n")
    return "".join(lines).encode("utf-8")


def _assigns(node: ast.stmt, name: str) -> bool:
    return isinstance(node, ast.Assign) and any(isinstance(one, ast.Name) and one.id == name for one in node.targets)


def _labels_in(node: ast.stmt | None) -> set[str]:
    """Return the labels of the migrations that one replaces."""
    pairs = [one for one in ast.walk(node) if isinstance(one, ast.Tuple)] if node is not None else []
    return {str(one.elts[0].value) for one in pairs if one.elts and isinstance(one.elts[0], ast.Constant)}
