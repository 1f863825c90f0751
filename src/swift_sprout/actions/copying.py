"""``new --like``: a sibling of a module that is there, made by us or by hand, under a name of its own.

Files and contents carry the new name; the donor, its data and its registration stay as they are. What may be a common
word is listed and left. The copy is registered by ``enable``, like any new module.
"""

from __future__ import annotations

import json
import re
from dataclasses import dataclass, field

from ..core.brief import BRIEF_FILE
from ..core.changes import ChangeSet
from ..core.errors import Refused
from ..core.renaming.contents import is_text
from ..core.renaming.occurrences import Occurrence
from ..disk.walking import MADE_BY_PROGRAMS, NOT_WRITTEN
from .hosting import OpenHost, carried_out
from .naming import Naming, compiled_catalogues, files_of, in_other_modules

#  what a file says of who wrote it and when, which is not true of a copy
_OF_THE_DONOR = re.compile(
    rb"^[ \t]*[#*/;\"'-]+[ \t]*@?(?:author|authors|copyright|created|date)\b\s*:?[^\n=(]*$",
    re.IGNORECASE | re.MULTILINE,
)
_BRIEF_NAME = re.compile(rb"^name\s*=.*\n", re.MULTILINE)
_BRIEF_AUTHOR = re.compile(rb"^author\s*=.*\n", re.MULTILINE)
#  an author as generated code and headers of packages tell one: what stands before, and behind
_AUTHOR = re.compile(rb"^(__author__ = \"|(?:[ \t]*\*)?[ \t]*Author: +)[^\"\n]*(\"?)\n", re.MULTILINE)


@dataclass
class Copied:
    """What ``new --like`` did, or would do.

    donor, module -- the names; folder -- where the copy lies; left -- where the donor's name stands in it
    donors -- lines that tell of who wrote the donor, and when; address -- where its pages do not meet the donor's
    registers -- False on a host of which it is not known how it registers modules
    """

    donor: str
    module: str
    folder: str
    changes: ChangeSet
    doubtful: list[Occurrence] = field(default_factory=list)
    left: list[Occurrence] = field(default_factory=list)
    donors: list[tuple[str, int, str]] = field(default_factory=list)
    address: str = ""
    registers: bool = True


def copy_module(
    opened: OpenHost, donor: str, name: str, internal: str, author: str, take_doubtful: bool, preview: bool
) -> Copied:
    """Make a module after another one.

    author -- who wrote the copy; empty for nobody

    Raises WrongUse for a name that cannot be, and Refused where a file is in the way.
    """

    def plan() -> Copied:
        def finish(path: str, content: bytes) -> bytes:
            return _with_author(path, opened.host.for_copy(path, content), author)

        return _planned(Naming(opened, donor, name, internal, take_doubtful, finish))

    return carried_out(opened, f"new {name} like {donor}", plan, preview)


def _planned(naming: Naming) -> Copied:
    root = naming.opened.host.root
    changes = ChangeSet(f"new {naming.new_name} like {naming.module.name}")
    files: dict[str, bytes] = {}
    done = Copied(naming.module.name, naming.new_name, naming.new_folder, changes)
    is_others = in_other_modules(naming.module)
    for file in files_of(naming.opened, naming.module.folder):
        relative = file.path
        if naming.target(relative) == relative or not _is_copied(relative) or is_others(relative):
            continue  # what is not the module's own names the donor alone
        held = file.read()
        target = naming.target(relative, is_text(held))
        if target == relative:
            continue
        if (root / target).exists():
            raise Refused("in-the-way", f"{target} exists already; nothing was made.", "Choose another name.")
        content, found = naming.changed(relative, held)
        doubtful = [one._replace(path=target) for one in found if one.doubtful and not naming.take_doubtful]
        done.doubtful += doubtful
        if is_text(content):
            done.donors += [
                (target, content.count(b"\n", 0, line.start()) + 1, line.group().decode("utf-8", "replace").strip())
                for line in _OF_THE_DONOR.finditer(content[:4000])
            ]
            text = content.decode("utf-8", "surrogateescape")
            places = {(one.line, one.before) for one in doubtful}
            done.left += [
                Occurrence(target, text.count("\n", 0, one.start) + 1, one.start, one.before, one.after, "", True)
                for one in naming.renaming.find(text)
                if (text.count("\n", 0, one.start) + 1, one.before) not in places
            ]
        files[target] = content
    for target, content in (files | compiled_catalogues(files, naming.renaming)).items():
        changes.add(target, None, content)
    pages = naming.opened.host.takes_address and bool(naming.opened.host.addresses(naming.module.name))
    done.registers = naming.opened.host.registers
    done.address = f"/{naming.new.kebab}" if pages else ""
    return done


def _is_copied(path: str) -> bool:
    """False for what belongs to the donor alone: its history, caches and data."""
    return not path.endswith(MADE_BY_PROGRAMS) and not NOT_WRITTEN & set(path.split("/"))


def _with_author(path: str, content: bytes, author: str) -> bytes:
    """Return a file in which somebody else, or nobody, stands as its author."""
    if path.endswith(f"/{BRIEF_FILE}"):
        said = f"author = {json.dumps(author, ensure_ascii=False)}\n".encode() if author else b""
        without = _BRIEF_AUTHOR.sub(b"", content, count=1)
        name = _BRIEF_NAME.search(without)
        return without if name is None else without[: name.end()] + said + without[name.end() :]
    name_now = author.encode()
    return _AUTHOR.sub(lambda line: line[1] + name_now + line[2] + b"\n" if author else b"", content)
