"""English plurals and singulars of one word, for record and address names; a brief can always say its own."""

from __future__ import annotations

_IRREGULAR = {
    "child": "children",
    "foot": "feet",
    "goose": "geese",
    "half": "halves",
    "knife": "knives",
    "leaf": "leaves",
    "life": "lives",
    "loaf": "loaves",
    "man": "men",
    "mouse": "mice",
    "ox": "oxen",
    "person": "people",
    "shelf": "shelves",
    "thief": "thieves",
    "tooth": "teeth",
    "wharf": "wharves",
    "wife": "wives",
    "wolf": "wolves",
    "woman": "women",
    "analysis": "analyses",
    "axis": "axes",
    "basis": "bases",
    "crisis": "crises",
    "criterion": "criteria",
    "datum": "data",
    "index": "indices",
    "medium": "media",
    "phenomenon": "phenomena",
    "buoy": "buoys",
    "echo": "echoes",
    "hero": "heroes",
    "potato": "potatoes",
    "tomato": "tomatoes",
    "cargo": "cargoes",
    "quiz": "quizzes",
}
_WITHOUT_PLURAL = frozenset(
    [
        "advice",
        "aircraft",
        "baggage",
        "cod",
        "equipment",
        "fish",
        "freight",
        "furniture",
        "gear",
        "hovercraft",
        "information",
        "luggage",
        "mackerel",
        "means",
        "news",
        "offspring",
        "salmon",
        "series",
        "sheep",
        "software",
        "species",
        "tackle",
        "watercraft",
    ]
)
_SINGULAR = {plural: singular for singular, plural in _IRREGULAR.items()}


def plural_of(word: str) -> str:
    """Return the plural of one lower-case English word (``berth`` → ``berths``, ``ferry`` → ``ferries``)."""
    if word in _WITHOUT_PLURAL:
        return word
    if word in _IRREGULAR:
        return _IRREGULAR[word]
    if word.endswith("y") and len(word) > 1 and word[-2] not in "aeiou":
        return word[:-1] + "ies"
    if word.endswith(("s", "x", "z", "ch", "sh")):
        return word + "es"
    return word + "s"


def number_of(count: int, word: str) -> str:
    """Return a number with its word: ``1 page``, ``2 pages``, ``0 entries``."""
    return f"{count} {word if count == 1 else plural_of(word)}"


def singular_of(word: str) -> str:
    """Return the singular of one lower-case English word (``berths`` → ``berth``); a singular stays as it is."""
    if word in _WITHOUT_PLURAL or word in _IRREGULAR:
        return word
    if word in _SINGULAR:
        return _SINGULAR[word]
    if word.endswith("ies") and len(word) > 4:
        return word[:-3] + "y"
    if word.endswith(("sses", "xes", "zes", "ches", "shes")):
        return word[:-2]
    if word.endswith("s") and not word.endswith(("ss", "us", "is")):
        return word[:-1]
    return word
