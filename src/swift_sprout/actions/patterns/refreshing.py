"""``refresh --pattern``: later changes of a pattern merged into a module that it made, and that people edited since."""

from __future__ import annotations

from collections.abc import Mapping

from ...core.changes import ChangeSet
from ...core.errors import Refused, WrongUse
from ...core.nearest import did_you_mean
from ...core.patterns.facts import Facts
from ...core.patterns.origin import ORIGIN_FILE, Origin
from ...core.patterns.words import Value, Word, value_of
from ...edits.catalogue import compiled
from ..hosting import OpenHost, carried_out
from ..merging import Refreshed, merge_file, refuse_marks
from ..modulefiles import FilesOnDisk
from .keeping import origin_of
from .locating import files_now, values_now
from .store import is_compiled, read_pattern


def refresh_from_pattern(opened: OpenHost, name: str, words: Mapping[str, str], preview: bool) -> Refreshed:
    """Bring a module up to its pattern.

    words -- names for words that the pattern has since, as people type them

    Raises Refused for a module that no pattern made, or with conflicts of an earlier refresh.
    """
    purpose = f"refresh {name} from its pattern"
    return carried_out(opened, purpose, lambda: _planned(opened, name, words), preview)


def _planned(opened: OpenHost, name: str, words: Mapping[str, str]) -> Refreshed:
    module = opened.host.find(name)
    folder = opened.host.folder(module)
    origin = origin_of(opened, folder)
    if origin is None:
        raise Refused(
            "not-of-pattern",
            f"{module} was not made from a pattern: it has no {ORIGIN_FILE}; nothing was changed.",
            "Without --pattern it is brought up to its brief.",
        )
    pattern = read_pattern(opened, origin.pattern)
    values = values_now(pattern, origin, _values(pattern.facts, words))
    now = {path: one.content for path, one in files_now(pattern, origin, opened, values).items()}
    files = FilesOnDisk(opened, "")
    refuse_marks(files, origin.files)
    result = Refreshed(module, ChangeSet(f"refresh {module} from {pattern.name}"))
    for path in sorted({*origin.files, *now}):
        if not is_compiled(path, now):
            merge_file(files, path, origin.files.get(path), now.get(path), result, "the pattern")
    _compile(files, now, result.changes)
    kept = Origin.of(pattern.name, origin.variant, pattern.state, origin.place, values, now)
    files.put(result.changes, f"{folder}/{ORIGIN_FILE}", kept.content())
    return result


def _values(facts: Facts, words: Mapping[str, str]) -> dict[Word, Value]:
    values = {}
    for key, text in words.items():
        word = next((one for one in facts.words if key.lower() in (one.key.lower(), one.value.family.snake)), None)
        if word is None:
            known = [one.key for one in facts.words]
            raise WrongUse("word-unknown", f"The pattern has no word {key!r}.", did_you_mean(key, known))
        values[word] = value_of(word.kind, text)
    return values


def _compile(files: FilesOnDisk, now: Mapping[str, bytes], changes: ChangeSet) -> None:
    """Compile the catalogues again whose sources change."""
    after = {change.path: change.after for change in changes.changes}
    for path in now:
        source = after.get(path.removesuffix(".mo") + ".po") if is_compiled(path, now) else None
        if source is not None:
            try:
                files.put(changes, path, compiled(source))
            except ValueError:
                continue  # it holds conflict marks, which are listed
