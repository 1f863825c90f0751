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


def folder_name(exam: Examination) -> Iterator[Finding]:
    """A folder that cannot be imported."""
    name = exam.module.folder.name
    if not name.isidentifier():
        suggestion = "".join(letter if letter.isalnum() else "_" for letter in name)
        yield exam.find("found.folder-name", exam.module.folder, folder=name, suggestion=suggestion)


def hidden(exam: Examination) -> Iterator[Finding]:
    """Two folders of one name on the import path: only the first is ever imported."""
    for other in exam.view.doubles.get(exam.module.name, ()):
        folder = exam.view.relative(other)
        yield exam.find("found.hidden", other, folder=folder, other=exam.view.relative(exam.module.folder))


def leftovers(exam: Examination) -> Iterator[Finding]:
    """A folder with byte code alone, or with nothing in it that the host would use."""
    folder = exam.module.folder
    relative = exam.view.relative(exam.module.place)
    if not exam.sources and not any(folder.rglob("*.py")):
        if any(folder.rglob("*.pyc")):
            yield exam.find("found.byte-code-only", folder, folder=relative)
        return
    if exam.view.entry_of(exam.module) is None:
        return
    stems = {name.removesuffix(".py") for name in exam.module.names}
    config = exam.module.config
    works = config is not None and "ready" in config.methods
    code = [source for source in exam.sources if source.text_length > 0 and source.name != "apps.py"]
    if not stems.intersection(USEFUL) and not works and not code:
        yield exam.find("found.empty", folder, folder=relative)


def description(exam: Examination) -> Iterator[Finding]:
    """The config class in apps.py disagrees with the package, does not parse, or is passed by."""
    source = exam.view.project.parse(f"{exam.module.place}/apps.py") if exam.module.has("apps.py") else None
    if source is None:
        return
    path = source.path
    if source.broken:
        yield exam.find("described.broken", path, source.broken.line, reason=source.broken.reason)
        return
    for config in exam.module.configs:
        said, line = config.values.get("name", ("", config.line))
        if isinstance(said, str) and said and said != exam.module.name and exam.module.folder.name.isidentifier():
            yield exam.find("described.name-disagrees", path, line, said=said)
        if not config.bases:
            yield exam.find("described.base-class", path, config.line, name=config.name)
        label, line = config.values.get("label", ("", 0))
        if isinstance(label, str) and label and not label.isidentifier():
            suggestion = "_".join(words_of(label)[0]) or exam.module.folder.name
            yield exam.find("described.label-unusable", path, line, said=label, suggestion=suggestion)
    entry = exam.view.entry_of(exam.module)
    plain = entry is None or entry.value == exam.module.name
    if len(exam.module.configs) > 1 and exam.module.config is None and plain:
        yield exam.find("described.several-configs", path, exam.module.configs[1].line, count=len(exam.module.configs))


def copied(exam: Examination) -> Iterator[Finding]:
    """What a copied module keeps of its donor: title, brief."""
    config = exam.module.config
    title, line = config.values.get("verbose_name", ("", 0)) if config else ("", 0)
    for other in exam.view.titled.get(title, ()) if isinstance(title, str) and title else ():
        if other.name == exam.module.name:
            continue
        if _fits(title, exam.module.label) < _fits(title, other.label):
            yield exam.find(
                "described.copied-title", exam.module.folder / "apps.py", line, title=title, other=other.name
            )


def _fits(title: str, label: str) -> int:
    """Count the words that a title and a label share."""
    return len({word[:5] for word in words_of(title)[0]} & {word[:5] for word in words_of(label)[0]})


def brief(exam: Examination) -> Iterator[Finding]:
    """A brief that cannot be read, or is that of another module."""
    if not exam.module.has(BRIEF_FILE):
        return
    read = exam.module.read
    if read is None:
        read = _unread(exam.module.brief_file, exam.view.relative(exam.module.brief_file))
    if isinstance(read, SproutError):
        problems = read.problems
        reason = problems[0].what if problems else str(read)
        place = problems[0].place if problems else str(read)
        number = place.rpartition(":")[2] if problems else place.partition(":")[2].partition(":")[0]
        line = int(number) if number.isdigit() else 0
        yield exam.find("described.brief-broken", exam.module.brief_file, line, reason=reason)
        return
    if read.name.snake not in (exam.module.label, exam.module.folder.name):
        yield exam.find("described.brief-name", exam.module.brief_file, 2, said=read.name.snake)


def _unread(path: Path, place: str) -> Brief | SproutError:
    """Read a brief that holds nothing that could be read before: what remains is to say why."""
    try:
        return brief_from_toml(path.read_text("utf-8"), place)
    except SproutError as error:
        return error
    except (OSError, UnicodeDecodeError) as error:
        return WrongUse("brief-unreadable", f"{place}:0: {error}", "Save it as UTF-8.")


STATIC = (folder_name, hidden, leftovers, description, copied, brief)
