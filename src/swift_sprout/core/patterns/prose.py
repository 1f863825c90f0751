"""Whether a name stands in a text as people read it, or as code: a single word does not show that by its spelling."""

from __future__ import annotations

import re
from enum import Enum, auto

_DOCUMENTS = (".md", ".rst", ".txt")
_PAGES = (".html", ".htm", ".twig", ".j2", ".jinja", ".erb")
#  where code begins and ends within a page
_CODE_BEGINS = ("{%", "{{", "<")
_CODE_ENDS = ("%}", "}}", ">")
_COMMENT = re.compile(r"\s*(?:#|//|/?\*|--\s)")
_STATEMENT = re.compile(r"\b(?:SELECT|INSERT|UPDATE|DELETE|FROM|WHERE|JOIN|TABLE|INDEX)\b")  # of SQL, in quotes
_BEFORE_A_WORD = frozenset(["", " ", "\n", '"', "'", ">", "("])
_BEHIND_A_WORD = frozenset(["", " ", "\n", '"', "'", "<", ")", ".", ",", ";", ":", "!", "?"])
#  what stands before a text in quotes that people read: a call that translates, or a key
_TRANSLATED = re.compile(
    r"(?:(?:\b\w*gettext\w*|\b_[_ex]?|\besc_\w+|\btrans|\bt)\(\s*"
    r"|\{%-?\s*trans(?:late)?\s+|^msg(?:id|str)(?:\[\d\])?\s+"
    r"|\b(?:verbose_name\w*|summary|help\w*|description|caption)[\"']?\s*(?:=>|[:=])\s*)[\"']$",
    re.IGNORECASE,
)
#  keys of titles, which are names for programs where they are in small letters
_TITLED = re.compile(
    r"\b(?:title|labels?_?\w*|heading|string|singular_name)[\"']?\s*(?:=>|[:=])\s*[\"']$", re.IGNORECASE
)


class Written(Enum):
    """How a name of several words is written.

    CODE   -- as the spelling tells; QUOTED the same, alone in quotes, where a plural with a capital is a title
    PROSE  -- as people read it
    JOINED -- in small letters with nothing between them
    """

    CODE = auto()
    QUOTED = auto()
    PROSE = auto()
    JOINED = auto()


def way_of(text: str, start: int, end: int, path: str) -> Written:
    """Return how a name at a place of a text is written; what cannot be told is code.

    A name with a ``_`` too many in a sentence breaks nothing, a space within code does.
    """
    left, right = text[start - 1 : start], text[end : end + 1]
    if left not in _BEFORE_A_WORD or right not in _BEHIND_A_WORD:
        return Written.CODE
    if path.endswith(_DOCUMENTS):
        return Written.PROSE
    before = text[text.rfind("\n", 0, start) + 1 : start]
    is_title = text[start:end].strip("⟦⟧")[:1].isupper()
    if _TRANSLATED.search(before) or (is_title and _TITLED.search(before)):
        return Written.PROSE
    if path.endswith(_PAGES):
        outside = max(map(text[:start].rfind, _CODE_ENDS)) >= max(map(text[:start].rfind, _CODE_BEGINS))
        return Written.PROSE if outside else Written.CODE
    if is_title and left == ">" and right == "<":
        return Written.PROSE
    if path.endswith(".xml"):  # in small letters it may be what a program reads
        return Written.CODE
    if is_title and left == right and left in ("'", '"'):
        return Written.QUOTED
    behind = text[end : end + 500].partition("\n")[0]
    if before.rstrip().endswith(":") and not behind.strip() and text[start:end].islower():
        return Written.CODE  # the value of a header, such as a text domain
    if _COMMENT.match(before) or before.count('"""') % 2:
        return Written.PROSE
    return Written.PROSE if _in_quoted_sentence(before, behind) else Written.CODE


def _in_quoted_sentence(before: str, behind: str) -> bool:
    """True within a text in quotes that has more words than the name; ``before`` and ``behind`` on its line."""
    for quote in "\"'":
        if before.count(quote) % 2 and quote in behind:
            head, tail = before.rpartition(quote)[2], behind.partition(quote)[0]
            return (head.endswith(" ") or tail.startswith(" ")) and not _STATEMENT.search(head + tail)
    return False
