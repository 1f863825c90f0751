"""Carrying a change into XML data files: lists of elements that have an id, such as records; all else stays."""

from __future__ import annotations

from .carrying import NotCarried
from .xml import elements

_DEPTH = 2  # below the root and a list


class DataText:
    """The text of a data file: where its elements with an id stand, by tag and id, and where the last list ends."""

    def __init__(self, text: str) -> None:
        self.content = text.encode("utf-8")
        self.places: dict[tuple[str, str], tuple[int, int]] = {}
        self.end_of_list = -1
        for one in elements(text) if text.strip() else ():
            closing = one.inside if one.inside >= 0 else one.start
            end = self.content.index(b">", closing) + 1
            identity = dict(one.attributes).get("id", "")
            if one.depth == _DEPTH and identity:
                self.places[one.name, identity] = one.start, end
            elif one.depth == _DEPTH - 1:
                self.end_of_list = one.inside

    def of(self, key: tuple[str, str]) -> bytes | None:
        """Return the text of an element, or None."""
        begins, ends = self.places.get(key, (0, 0))
        return self.content[begins:ends] or None


def carry_data(current: str, before: str, after: str) -> str | None:
    """Carry a change of generated text into a data file; None where the texts are no lists of elements with ids.

    Raises NotCarried for an element that changes and was changed here as well.
    """
    old, new, here = DataText(before), DataText(after), DataText(current)
    if not new.places or here.end_of_list < 0:
        return None
    edits: list[tuple[int, int, bytes]] = []
    for key in new.places:
        wanted, was, now = new.of(key), old.of(key), here.of(key)
        if wanted is None or wanted in (was, now):
            continue
        if now is None and was is None:
            edits.append((here.end_of_list, here.end_of_list, b"    " + wanted + b"\n    "))
        elif now is not None and now == was:
            edits.append((*here.places[key], wanted))
        else:
            line = here.content[: here.places[key][0]].count(b"\n") + 1 if now is not None else 0
            raise NotCarried(line, f"the element {key[1]} was changed here as well")
    for key in old.places:
        if key not in new.places and key in here.places and here.of(key) == old.of(key):
            begins, ends = here.places[key]
            edits.append((here.content.rfind(b"\n", 0, begins) + 1, here.content.find(b"\n", ends) + 1 or ends, b""))
    content = here.content
    for begins, ends, text in sorted(edits, key=lambda edit: edit[0], reverse=True):
        content = content[:begins] + text + content[ends:]
    result = content.decode("utf-8")
    _prove(here, DataText(result), old, new)
    return result


def _prove(here: DataText, now: DataText, old: DataText, new: DataText) -> None:
    """Raise NotCarried where an element changed that the change does not name."""
    for key in {**here.places, **now.places}:
        named = new.of(key) != old.of(key)
        if now.of(key) != (new.of(key) if named else here.of(key)):
            raise NotCarried(0, f"the element {key[1]} is written in a way that cannot be edited safely")
