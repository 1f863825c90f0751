"""The site's object mapper, as its files tell: where it is made, and the revisions that lead its databases.

Flask-SQLAlchemy 3.1 (https://flask-sqlalchemy.readthedocs.io), Flask-Migrate 4 with Alembic's folder of revisions.
"""

from __future__ import annotations

import ast
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from ....core.errors import Refused
from ...python.sources import python_files
from .entry import dotted_of, tree_of

if TYPE_CHECKING:
    from .composing.mapped import MapperNames

FOLDER = "migrations"  # where Flask-Migrate keeps its revisions unless it is told otherwise


class Revision(NamedTuple):
    """A step of a database: its file, its own name, and the names of those that it follows."""

    path: Path
    name: str
    follows: tuple[str, ...]


class Mapper:
    """The site's mapper: ``name`` in the file that makes it, which code imports by ``module``."""

    def __init__(self, root: Path, file: Path, name: str, forms: bool) -> None:
        self.root = root
        self.file = file
        self.name = name
        self.module = dotted_of(root, file)
        self.forms = forms

    @property
    def names(self) -> MapperNames:
        """How code of a module comes by it."""
        from .composing.mapped import MapperNames

        return MapperNames(self.module, self.name, self.folder is not None, self.forms)

    @property
    def folder(self) -> Path | None:
        """The folder of revisions; None where the tables are made otherwise."""
        found = self.root / FOLDER
        return found / "versions" if (found / "env.py").is_file() else None

    @cached_property
    def revisions(self) -> list[Revision]:
        """The revisions that are there, by their files' names."""
        files = sorted(self.folder.glob("*.py")) if self.folder is not None else []
        return [one for file in files if (one := _revision(file)) is not None]

    def head(self) -> str:
        """Return the name of the last revision; empty for none. Raises Refused where there are several."""
        followed = {name for one in self.revisions for name in one.follows}
        heads = [one.name for one in self.revisions if one.name not in followed]
        if len(heads) > 1:
            raise Refused(
                "several-heads",
                f"The revisions in {FOLDER}/versions end in {len(heads)} heads: {', '.join(heads)}.",
                "Merge them first: python -m flask db merge heads",
            )
        return heads[0] if heads else ""

    def makes(self, table: str) -> bool:
        """True where a revision makes a table, or seems to: it says the table's name."""
        said = (f'"{table}"', f"'{table}'")
        return any(text in one.path.read_text("utf-8", "replace") for one in self.revisions for text in said)


def classes_of_records(root: Path) -> dict[str, Path]:
    """Return the classes of records that a site's code declares, by their names; those over other such classes too."""
    found: dict[str, Path] = {}
    waiting: list[tuple[ast.ClassDef, Path]] = []
    for place in python_files(root):
        tree = tree_of(Path(place))
        waiting += [(node, Path(place)) for node in ast.walk(tree) if isinstance(node, ast.ClassDef)] if tree else []
    grown = True
    while grown:
        grown = False
        for node, path in waiting:
            bases = {ast.unparse(base).rpartition(".")[2] for base in node.bases}
            if node.name not in found and (bases & {"Model", *found} or _names_table(node)):
                found[node.name] = path
                grown = True
    return found


def _names_table(node: ast.ClassDef) -> bool:
    return any(isinstance(one, ast.Assign) and ast.unparse(one.targets[0]) == "__tablename__" for one in node.body)


def find_mapper(root: Path) -> Mapper | None:
    """Return the mapper that a site makes at the top of a file; None for none, or for several."""
    found: list[tuple[Path, str]] = []
    forms = False
    for place in python_files(root):
        path = Path(place)
        text = path.read_text("utf-8", "replace")
        forms = forms or "flask_wtf" in text
        if "SQLAlchemy(" not in text or "tests" in path.relative_to(root).parts:
            continue
        tree = tree_of(path)
        for node in tree.body if tree is not None else ():
            if not isinstance(node, ast.Assign | ast.AnnAssign) or not isinstance(node.value, ast.Call):
                continue
            target = node.targets[0] if isinstance(node, ast.Assign) else node.target
            if ast.unparse(node.value.func).rpartition(".")[2] == "SQLAlchemy" and isinstance(target, ast.Name):
                found.append((path, target.id))
    return Mapper(root, *found[0], forms) if len(found) == 1 else None


def _revision(file: Path) -> Revision | None:
    said: dict[str, object] = {}
    tree = tree_of(file)
    for node in tree.body if tree is not None else ():
        target = node.targets[0] if isinstance(node, ast.Assign) else getattr(node, "target", None)
        if isinstance(target, ast.Name) and isinstance(node, ast.Assign | ast.AnnAssign) and node.value is not None:
            try:
                said[target.id] = ast.literal_eval(node.value)
            except ValueError:
                continue
    name, follows = said.get("revision"), said.get("down_revision")
    if not isinstance(name, str):
        return None
    several = follows if isinstance(follows, tuple | list) else [follows] if follows else []
    return Revision(file, name, tuple(map(str, several)))
