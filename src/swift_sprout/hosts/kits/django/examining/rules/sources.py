"""Found and described: what lies on disk, and what apps.py and the brief say of it."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from ......core.brief import BRIEF_FILE, Brief, brief_from_toml
from ......core.errors import SproutError, WrongUse
from ......core.findings import Finding
from ......core.names import words_of
from ..examination import Examination

USEFUL = frozenset(
    {"models", "views", "urls", "admin", "management", "templatetags", "templates", "static", "migrations", "locale"}
)


def folder_name(one: Examination) -> Iterator[Finding]:
    """A folder that cannot be imported."""
    name = one.module.folder.name
    if not name.isidentifier():
        suggestion = "".join(letter if letter.isalnum() else "_" for letter in name)
        yield one.find("found.folder-name", one.module.folder, folder=name, suggestion=suggestion)


def hidden(one: Examination) -> Iterator[Finding]:
    """Two folders of one name on the import path: only the first is ever imported."""
    for other in one.view.doubles.get(one.module.name, ()):
        folder = one.view.relative(other)
        yield one.find("found.hidden", other, folder=folder, other=one.view.relative(one.module.folder))


def leftovers(one: Examination) -> Iterator[Finding]:
    """A folder with byte code alone, or with nothing in it that the host would use."""
    folder = one.module.folder
    relative = one.view.relative(one.module.place)
    if not one.sources and not any(folder.rglob("*.py")):
        if any(folder.rglob("*.pyc")):
            yield one.find("found.byte-code-only", folder, folder=relative)
        return
    if one.view.entry_of(one.module) is None:
        return
    stems = {name.removesuffix(".py") for name in one.module.names}
    config = one.module.config
    works = config is not None and "ready" in config.methods
    code = [source for source in one.sources if source.text_length > 0 and source.name != "apps.py"]
    if not stems.intersection(USEFUL) and not works and not code:
        yield one.find("found.empty", folder, folder=relative)


def description(one: Examination) -> Iterator[Finding]:
    """The config class in apps.py disagrees with the package, does not parse, or is passed by."""
    source = one.view.project.parse(f"{one.module.place}/apps.py") if one.module.has("apps.py") else None
    if source is None:
        return
    path = source.path
    if source.broken:
        yield one.find("described.broken", path, source.broken.line, reason=source.broken.reason)
        return
    for config in one.module.configs:
        said, line = config.values.get("name", ("", config.line))
        if isinstance(said, str) and said and said != one.module.name and one.module.folder.name.isidentifier():
            yield one.find("described.name-disagrees", path, line, said=said)
        if not config.bases:
            yield one.find("described.base-class", path, config.line, name=config.name)
        label, line = config.values.get("label", ("", 0))
        if isinstance(label, str) and label and not label.isidentifier():
            suggestion = "_".join(words_of(label)[0]) or one.module.folder.name
            yield one.find("described.label-unusable", path, line, said=label, suggestion=suggestion)
    entry = one.view.entry_of(one.module)
    plain = entry is None or entry.value == one.module.name
    if len(one.module.configs) > 1 and one.module.config is None and plain:
        yield one.find("described.several-configs", path, one.module.configs[1].line, count=len(one.module.configs))


def copied(one: Examination) -> Iterator[Finding]:
    """What a copied module keeps of its donor: title, brief."""
    config = one.module.config
    title, line = config.values.get("verbose_name", ("", 0)) if config else ("", 0)
    for other in one.view.titled.get(title, ()) if isinstance(title, str) and title else ():
        if other.name == one.module.name:
            continue
        if _fits(title, one.module.label) < _fits(title, other.label):
            yield one.find("described.copied-title", one.module.folder / "apps.py", line, title=title, other=other.name)


def _fits(title: str, label: str) -> int:
    """Count the words that a title and a label share."""
    return len({word[:5] for word in words_of(title)[0]} & {word[:5] for word in words_of(label)[0]})


def brief(one: Examination) -> Iterator[Finding]:
    """A brief that cannot be read, or is that of another module."""
    if not one.module.has(BRIEF_FILE):
        return
    read = one.module.read
    if read is None:
        read = _unread(one.module.brief_file, one.view.relative(one.module.brief_file))
    if isinstance(read, SproutError):
        problems = read.problems
        reason = problems[0].what if problems else str(read)
        place = problems[0].place if problems else str(read)
        number = place.rpartition(":")[2] if problems else place.partition(":")[2].partition(":")[0]
        line = int(number) if number.isdigit() else 0
        yield one.find("described.brief-broken", one.module.brief_file, line, reason=reason)
        return
    if read.name.snake not in (one.module.label, one.module.folder.name):
        yield one.find("described.brief-name", one.module.brief_file, 2, said=read.name.snake)


def _unread(path: Path, place: str) -> Brief | SproutError:
    """Read a brief that holds nothing that could be read before: what remains is to say why."""
    try:
        return brief_from_toml(path.read_text("utf-8"), place)
    except SproutError as error:
        return error
    except (OSError, UnicodeDecodeError) as error:
        return WrongUse("brief-unreadable", f"{place}:0: {error}", "Save it as UTF-8.")


STATIC = (folder_name, hidden, leftovers, description, copied, brief)
