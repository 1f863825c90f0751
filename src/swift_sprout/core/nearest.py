"""The nearest known spelling of an unknown word."""

from __future__ import annotations

from collections.abc import Iterable


def nearest(word: str, known: Iterable[str]) -> str | None:
    """Return the known word most like ``word``, or None when none is like it."""
    from difflib import get_close_matches

    choices = {choice.lower(): choice for choice in known}
    found = get_close_matches(word.lower(), list(choices), n=1, cutoff=0.6)
    return choices[found[0]] if found else None


def misspelt(wanted: str, known: Iterable[str]) -> str | None:
    """Return the name that another is a slip of the pen for: nearly the same, not only alike; None for none."""
    import difflib

    found = difflib.get_close_matches(wanted, list(known), 1, 0.9)
    return found[0] if found else None


def slip_in(wanted: str, known: Iterable[str]) -> str | None:
    """Return the name that another must mean where both are of one small world, such as the fields of one model.

    There even short names with one letter more, less or other than another are taken for slips.
    """
    choices = list(known)
    meant = misspelt(wanted, choices)
    if meant is None and len(wanted) > 3:
        meant = next((one for one in choices if len(one) > 3 and _one_letter_off(wanted, one)), None)
    return meant


def _one_letter_off(name: str, other: str) -> bool:
    if abs(len(name) - len(other)) > 1:
        return False
    begins = 0
    while begins < min(len(name), len(other)) and name[begins] == other[begins]:
        begins += 1
    left, right = name[begins:], other[begins:]
    return left[1:] == right or right[1:] == left or left[1:] == right[1:]


def near_text(word: str, known: Iterable[str]) -> str:
    """Return what a sentence says of the nearest known word, to be put at its end; nothing where none is like it."""
    return said_near(nearest(word, known))


def said_near(near: str | None) -> str:
    """Return what a sentence says at its end of a name that may be meant; nothing for none."""
    return f" (did you mean {near}?)" if near else ""


def did_you_mean(word: str, known: Iterable[str]) -> str:
    """Return a remedy: the nearest known word, else the list of them."""
    choices = sorted(set(known))
    match = nearest(word, choices)
    if match is not None:
        return f"Nearest known: {match}."
    return f"Known: {', '.join(choices)}." if choices else "None is known here."
