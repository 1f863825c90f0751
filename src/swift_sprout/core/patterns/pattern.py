"""One pattern: its facts and its files with marks, filled in for a module."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Mapping
from functools import cached_property
from typing import NamedTuple

from ..errors import Problem, Refused, WrongUse
from ..renaming.contents import is_text
from . import FOLDER
from .facts import FACTS_FILE, Facts, Variant, left_out, stays_inside
from .marks import Filling, Template, Unfilled
from .words import Value, Word

FILES = "files"
ENDING = ".pattern"


class Filled(NamedTuple):
    """A file that a pattern makes: the pattern's file, and the content."""

    made_of: str
    content: bytes


class Pattern:
    """One pattern, read from its folder.

    name  -- of its folder; facts -- what its file of facts says
    files -- the contents by path below the host's root, both with marks
    joined -- behind what the host joins the words of a name with nothing between them
    """

    def __init__(
        self, name: str, facts: Facts, files: Mapping[str, bytes], joined: re.Pattern[str] | None = None
    ) -> None:
        self.name = name
        self.facts = facts
        self.files = files
        self._joined = joined

    @cached_property
    def state(self) -> str:
        """What it holds now, in short: another text where anything of it has changed."""
        whole = hashlib.sha256(self.facts.content())
        for path in sorted(self.files):
            whole.update(b"\0".join([path.encode("utf-8", "surrogateescape"), self.files[path], b""]))
        return whole.hexdigest()[:12]

    @cached_property
    def _templates(self) -> dict[str, tuple[Template, Template | None]]:
        """The path and the text of each file, taken apart; None for a content that is no text."""
        return {
            path: (
                Template(path, joined=self._joined),
                Template(content.decode("utf-8", "surrogateescape"), path, self._joined) if is_text(content) else None,
            )
            for path, content in self.files.items()
        }

    def place(self, path: str, line: int = 0) -> str:
        """Return where one of its files lies, for messages."""
        return f"{FOLDER}/{self.name}/{FILES}/{path}{ENDING}{f':{line}' if line else ''}"

    def filled(self, filling: Filling, variant: Variant) -> dict[str, Filled]:
        """Return the files of a module by their paths; raises Refused for a mark without a word, and for bad paths."""
        files: dict[str, Filled] = {}
        problems: list[Problem] = []
        for path, (name, text) in self._templates.items():
            if left_out(path, variant):
                continue
            try:
                target = name.filled(filling)
                content = text.filled(filling).encode("utf-8", "surrogateescape") if text else self.files[path]
            except Unfilled as error:
                problems.append(Problem(self.place(path, error.line), f"nothing fills ⟦{error.mark}⟧"))
                continue
            if not stays_inside(target):
                problems.append(Problem(self.place(path), f"it would become {target}, which is no path in a host"))
            elif target in files:
                problems.append(Problem(self.place(path), f"{files[target].made_of} becomes {target} as well"))
            files[target] = Filled(path, content)
        if problems:
            raise Refused(
                "pattern-unfilled",
                f"The pattern {self.name} cannot be filled in; nothing was made.",
                f"Fix what is listed, or name the word in {FOLDER}/{self.name}/{FACTS_FILE}.",
                tuple(problems),
            )
        return files

    def filling(self, values: Mapping[Word, Value], joined: str) -> Filling:
        """Return what fills in a module's values; raises WrongUse where two numbers of a name become one."""
        for word, value in values.items():
            old, new = word.value, value
            parted = old.plural and old.plural != old.family.words[-1]
            if parted and new.plural == new.family.words[-1]:
                raise WrongUse(
                    "plural-same",
                    f"{new.title!r} is the same in the plural, and the pattern tells {old.family.words[-1]} from "
                    f"{old.plural}.",
                    f'Give a plural that differs, as "{new.title} / PLURAL".',
                )
        return Filling(self.facts.words, values, joined)
