"""Texts that addresses written as regular expressions take."""

import re

try:
    from re import _constants as kinds
    from re import _parser as parser
except ImportError:  # before Python 3.11
    import sre_constants as kinds
    import sre_parse as parser

CATEGORIES = {kinds.CATEGORY_DIGIT: "1", kinds.CATEGORY_WORD: "a", kinds.CATEGORY_SPACE: " "}
PLAUSIBLE = "2026"  # where four digits are wanted


def text_for(pattern, values):
    """Return a text that a regular expression matches, or None where none is found.

    values -- texts for its named groups; whatever else varies is made up
    """
    names = {number: name for name, number in re.compile(pattern).groupindex.items()}
    try:
        text = of_parts(parser.parse(pattern), names, values)
    except ValueError:
        return None
    return text if re.compile(pattern).search(text) else None


def of_parts(parts, names, values):
    return "".join(of_part(kind, said, names, values) for kind, said in parts)


def of_part(kind, said, names, values):
    if kind is kinds.LITERAL:
        return chr(said)
    if kind in (kinds.AT, kinds.ASSERT, kinds.ASSERT_NOT):
        return ""  # whether the whole text keeps to it is seen at the end
    if kind is kinds.ANY:
        return "a"
    if kind is kinds.IN:
        return one_of(said)
    if kind is kinds.BRANCH:
        return of_parts(said[1][0], names, values)
    if kind is kinds.SUBPATTERN:
        name = names.get(said[0])
        return str(values[name]) if name in values else of_parts(said[3], names, values)
    if kind in (kinds.MAX_REPEAT, kinds.MIN_REPEAT):
        least, most, inside = said
        text = of_parts(inside, names, values)
        if least == 4 and text == "1":
            return PLAUSIBLE
        return text * (least or (1 if text.isalnum() and most > 1 else 0))
    raise ValueError(kind)


def one_of(choices):
    """Return a character of a set."""
    for kind, said in choices:
        if kind is kinds.LITERAL:
            return chr(said)
        if kind is kinds.RANGE:
            return chr(said[0])
        if kind is kinds.CATEGORY and said in CATEGORIES:
            return CATEGORIES[said]
    raise ValueError(choices)
