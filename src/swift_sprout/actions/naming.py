"""One module's name turned into another in the files of a host: what ``rename`` and ``new --like`` have in common."""

from __future__ import annotations

import difflib
import re
from collections.abc import Callable, Iterator, Mapping
from fnmatch import fnmatchcase
from functools import cached_property
from pathlib import Path

from ..core.errors import Refused, SproutError
from ..core.made import MADE_FILE, Made
from ..core.names import NameFamily, name_family, words_as_parted
from ..core.patterns.origin import ORIGIN_FILE, Origin
from ..core.renaming.contents import LARGEST_BYTES, is_text
from ..core.renaming.occurrences import Occurrence, in_path, occurrences, taken
from ..core.renaming.spellings import Renaming
from ..disk.walking import NOT_WRITTEN, Written, all_files, written_files
from ..edits.catalogue import compiled
from .hosting import OpenHost
from .modulefiles import ModuleOnDisk


class Naming:
    """A module of an open host, and the name that its files are to carry.

    take_doubtful -- change what may be a common word as well
    finish        -- what else is done to a text of the module, by its path

    Raises WrongUse and Refused for a name that cannot be.
    """

    def __init__(
        self,
        opened: OpenHost,
        name: str,
        to: str,
        internal: str,
        take_doubtful: bool,
        finish: Callable[[str, bytes], bytes] = lambda path, content: content,
    ) -> None:
        self.opened = opened
        self.take_doubtful = take_doubtful
        self._finish = finish
        self.module = ModuleOnDisk(opened, name)
        self.label = self.module.name.rpartition(".")[2]
        brief = self.module.brief
        self.old = family_of(self.module)
        self.new = name_family(to, internal=internal)
        opened.host.check_name(self.new)
        parts = brief or opened.host.read_brief(self.module.name).brief
        records = [one.name for one in parts.records] + [one.name for one in parts.page_types]
        for record in records:
            #  one word is changed only where the module is meant, so that a record of that name keeps it
            if record.words == self.old.words and len(record.words) > 1:
                raise Refused(
                    "record-of-the-name",
                    f"{self.module.name} has a record of its own name, {record.title}; nothing was changed.",
                    "Rename the record first, in the brief: `swift-sprout refresh` carries that.",
                )
        others = other_families(self.module)
        joined = "-" if opened.kit.data.facts.naming.spelling == "kebab" else "_"
        numbers = {self.old.singular.words, self.old.plural.words}
        apart = not any(record.words in numbers for record in records)
        #  where a class has the name, its title in quotes is that of a record
        named = self.old._replace(title="") if len(self.old.words) == 1 and self._has_class_of_the_name() else self.old
        self.renaming = Renaming(named, self.new, [*others, *records], apart, joined)
        #  what changed in the module's own files, whole, and what each is now
        self.identifiers = {self.label: in_path(self.label, self.renaming)}
        self._means_module = means_module(self.module, self.old)
        self._kept_files = opened.kit.data.facts.naming.kept_files
        self._named_files = opened.kit.data.facts.naming.named_files
        self.notes = [f"the record {one.title} keeps its name" for one in records if _holds(one, self.old)]

    @property
    def new_name(self) -> str:
        """The module's name as the host will know it."""
        return f"{self.module.name.removesuffix(self.label)}{in_path(self.label, self.renaming)}"

    @property
    def new_folder(self) -> str:
        """Where the module will lie."""
        return in_path(self.module.folder, self.renaming)

    def is_inside(self, path: str) -> bool:
        """True for a file of the module itself, which may be one file alone."""
        return is_in(path, self.module.folder)

    def target(self, path: str, text: bool = True) -> str:
        """Return the path of a file under the new name; ``text`` is False for one that is none.

        Such a file elsewhere keeps its own name, for it may be what a program keeps there; its folder may carry the
        module's.
        """
        if not self.is_inside(path):
            folder, slash, name = path.rpartition("/")
            text = text and not any(fnmatchcase(path, one) for one in self._kept_files)
            if text or not folder:
                return in_path(path, self.renaming) if text else path
            return f"{in_path(folder, self.renaming)}{slash}{name}"
        below = path[len(self.module.folder) + 1 :]
        if not below:
            return self.new_folder
        return f"{self.new_folder}/{self._below(below) if self.renaming.single else in_path(below, self.renaming)}"

    def _below(self, path: str) -> str:
        """Return the path of a file below the module's folder, where the name is one word.

        A file or package of code with that name is a part of the module: its other files refer to it by the bare word.
        """
        folders, _, name = path.rpartition("/")
        kept, parts = self.module.path, []
        for part in folders.split("/") if folders else ():
            kept /= part
            parts.append(part if self._holds_code(kept) else in_path(part, self.renaming))
        named = any(fnmatchcase(path, one.replace("{label}", self.label)) for one in self._named_files)
        return "/".join([*parts, self.renaming.apply(name) if named else name])

    def _holds_code(self, folder: Path) -> bool:
        endings = self.opened.kit.data.facts.sources.code
        return any(one.name.endswith(endings) for one in folder.iterdir()) if folder.is_dir() else False

    def changed(
        self, path: str, content: bytes, registers: frozenset[int] = frozenset()
    ) -> tuple[bytes, list[Occurrence]]:
        """Return a file's content under the new name, and the occurrences in it.

        registers -- the lines by which the host registers the module
        """
        inside = self.is_inside(path)
        if inside and path.endswith(f"/{MADE_FILE}"):
            return self._made(content, path), []
        if inside and path.endswith(f"/{ORIGIN_FILE}"):
            return self._origin(content, path), []
        if not is_text(content) or not self._is_written(path):
            return content, []
        text = content.decode("utf-8", "surrogateescape")
        others_word = not inside and self.renaming.may_be_in(content) and self._is_word_of_others
        depth = path[len(self.module.folder) :].count("/") if inside else 0
        found = occurrences(path, text, self.renaming, inside, registers, self._means_module, others_word, depth)
        chosen = [one for one in found if self.take_doubtful or not one.doubtful]
        for one in chosen if inside else ():
            before = _identifier_at(text, one.start, self.renaming.single)
            after = self.renaming.apply(before)
            if after != before:
                self.identifiers[before] = after
        return self._finish(path, taken(text, chosen).encode("utf-8", "surrogateescape")), found

    @cached_property
    def _is_word_of_others(self) -> bool:
        """True where another module has a field or variable of the module's name: it may stand anywhere."""
        if self.renaming.single:
            return False  # such a name is doubtful anyway
        defined = re.compile(rf"^\s+{re.escape(self.old.snake)}\s*(?::[^=\n]+)?=[^=]", re.MULTILINE)
        endings = self.opened.kit.data.facts.sources.code
        is_others = in_other_modules(self.module)
        return any(
            defined.search(file.read().decode("utf-8", "replace"))
            for file in written_files(self.opened.host.root, self.opened.kit.data.facts.sources.skipped)
            if file.path.endswith(endings) and is_others(file.path)
        )

    def _is_written(self, path: str) -> bool:
        """False for what is installed or kept in a folder of the module: it moves as it is."""
        left_out = self.opened.kit.data.facts.sources.skipped | NOT_WRITTEN
        below = path[len(self.module.folder) :] if self.is_inside(path) else ""
        return not left_out & set(below.split("/")[:-1])

    def _made(self, content: bytes, place: str) -> bytes:
        """Return what was generated last, as it is generated under the new name."""
        made = Made.read(content, place)
        files = {
            in_path(path, self.renaming): self.changed(f"{self.module.folder}/{path}", held)[0]
            for path, held in made.files.items()
        }
        return made._replace(files=files).content()

    def _origin(self, content: bytes, place: str) -> bytes:
        """Return what a module keeps of its pattern, with the new name in it."""
        origin = Origin.read(content, place)
        return origin.renamed(
            self.new.title, self.new.snake, self.target, lambda path, held: self.changed(path, held)[0]
        ).content()

    def _has_class_of_the_name(self) -> bool:
        found = re.compile(rf"^\s*(?:\w+\s+)*class\s+{re.escape(self.old.camel)}\b".encode(), re.MULTILINE)
        endings = self.opened.kit.data.facts.sources.code
        files = all_files(self.opened.host.root, self.module.folder)
        return any(found.search(file.read()) for file in files if file.path.endswith(endings))

    def registers(self) -> dict[str, frozenset[int]]:
        """Return the lines by which the host registers the module, by file."""
        return registering_lines(self.module)

    def left_in(self, folder: str) -> list[Occurrence]:
        """Search the files once more, with the module in a folder: return where the old name stands now.

        A path that carries it has the line 0.
        """
        found = []
        for file in files_of(self.opened, folder):
            if self.renaming.may_be_in(file.path.encode("utf-8", "surrogateescape")):
                found += [
                    Occurrence(file.path, 0, one.start, one.before, one.after, "path", True)
                    for one in self.renaming.find(file.path)
                ]
            if file.path.endswith((f"/{MADE_FILE}", f"/{ORIGIN_FILE}")):
                continue
            content = file.read()
            if self.renaming.may_be_in(content) and is_text(content):
                text = content.decode("utf-8", "surrogateescape")
                found += occurrences(file.path, text, self.renaming, is_in(file.path, folder))
        return found


def family_of(module: ModuleOnDisk) -> NameFamily:
    """Return the name of a module: its title, and the words of its internal name as that parts them."""
    label = module.name.rpartition(".")[2]
    title = module.brief.name.title if module.brief else module.opened.host.state(module.name).title or label
    return NameFamily(title, words_as_parted(label))


def other_families(module: ModuleOnDisk) -> list[NameFamily]:
    """Return the names of the host's other modules."""
    return [
        NameFamily(one.title, words_as_parted(one.name.rpartition(".")[2]))
        for one in module.opened.host.modules()
        if one.name != module.name
    ]


def in_other_modules(module: ModuleOnDisk) -> Callable[[str], bool]:
    """Return what tells of a path whether it lies in the folder of another module; what stands there is that one's."""
    folders = {one.folder for one in module.opened.host.modules() if not is_in(module.folder, one.folder)}
    return lambda path: not is_in(path, module.folder) and not folders.isdisjoint(_with_parents(path))


def _with_parents(path: str) -> Iterator[str]:
    """Yield a path and every folder that it lies in."""
    while path:
        yield path
        path = path.rpartition("/")[0]


def registering_lines(module: ModuleOnDisk) -> dict[str, frozenset[int]]:
    """Return the lines by which the host registers a module, by file."""
    try:
        edit = module.opened.host.switch_off(module.name, for_good=True)
    except SproutError:
        return {}
    found = {}
    for change in edit.changes.changes:
        if change.before is not None and not is_in(change.path, module.folder):
            old, new = (one.decode("utf-8", "replace").splitlines() for one in (change.before, change.after or b""))
            matcher = difflib.SequenceMatcher(None, old, new, autojunk=False)
            found[change.path] = frozenset(
                number + 1
                for tag, start, end, _, _ in matcher.get_opcodes()
                if tag in ("delete", "replace")
                for number in range(start, end)
            )
    return found


def means_module(module: ModuleOnDisk, family: NameFamily) -> re.Pattern[str] | None:
    """Return what is found in lines of code where the name can only mean the module; None where a kit says nothing."""
    patterns = module.opened.kit.data.facts.naming.means_module
    label = re.escape(module.name.rpartition(".")[2])
    filled = [one.replace("{label}", label).replace("{camel}", re.escape(family.camel)) for one in patterns]
    return re.compile("|".join(f"(?:{one})" for one in filled)) if filled else None


def is_in(path: str, folder: str) -> bool:
    """True for a path in a folder, or that is the very place."""
    return path == folder or path.startswith(f"{folder}/")


def files_of(opened: OpenHost, folder: str) -> Iterator[Written]:
    """Yield the files of a host that are searched for names: all of a module's, and elsewhere no large ones.

    Raises Refused for a module with a link in it.
    """
    facts = opened.kit.data.facts
    for file in written_files(opened.host.root, facts.sources.skipped, (*facts.sandbox.leave_out, folder)):
        if file.size <= LARGEST_BYTES and file.path != folder:
            yield file
    yield from all_files(opened.host.root, folder)


def compiled_catalogues(files: Mapping[str, bytes], renaming: Renaming) -> dict[str, bytes]:
    """Return the compiled catalogues among files that hold the old name, anew from what their sources say now."""
    found = {}
    for path, content in files.items():
        source = files.get(f"{path.removesuffix('.mo')}.po") if path.endswith(".mo") else None
        if source is not None and any(renaming.find(content.decode("utf-8", "replace"))):
            try:
                found[path] = compiled(source)
            except ValueError:
                continue  # `check` tells of a catalogue that does not parse
    return found


_IDENTIFIER = re.compile(r"[\w-]+")


def _identifier_at(text: str, start: int, single: bool) -> str:
    """Return the whole identifier that holds a place; what others begin with ends before its separator.

    single -- True to keep the separator: a word that may be common is no part of others without it
    """
    line = text.rfind("\n", 0, start) + 1
    found = next(one for one in _IDENTIFIER.finditer(text, line) if one.end() > start)
    return found.group() if single else found.group().strip("_-")


def _holds(name: NameFamily, part: NameFamily) -> bool:
    return set(part.words) <= set(name.words)
