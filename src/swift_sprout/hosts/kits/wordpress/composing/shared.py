"""What the files of this folder share: names of the made code, rights closed over groups."""

from __future__ import annotations

from typing import Any

from .....core.brief import Brief
from .....core.parts.pages import needed_right
from .....core.parts.records import Record
from .....core.parts.rights import same_name
from .....core.rights import closed

Values = dict[str, Any]
VERBS = ("read", "create", "change", "delete")
_KEPT = {"anyone": "anyone", "signed in": "signed in", "staff": "edit_posts"}


def lines(texts: list[str]) -> list[dict[str, str]]:
    """Return texts as what a template repeats for each line."""
    return [{"line": text} for text in texts]


def namespace_of(brief: Brief) -> str:
    """Return the PHP namespace of a module: the owner's, and its own below."""
    own = "".join(word.title() for word in brief.name.words)
    owner = "".join(word.title() for word in brief.name.owner)
    return f"{owner}\\{own}" if owner else own


def comment_text(text: str) -> str:
    """Spell a text so that it stays inside a comment, and whole in the host's reading of a header."""
    return " ".join(text.split()).replace("*/", "* /").replace("?>", "? >")


def capability(brief: Brief, record: Record, verb: str) -> str:
    """Return the host's name of a right to a record."""
    return f"{verb}_{brief.name.snake}_{record.name.snake}"


def permission_name(brief: Brief, key: str) -> str:
    """Return the host's name of a permission of its own."""
    return f"{brief.name.snake}_{key}"


def role_name(brief: Brief, key: str) -> str:
    """Return the host's name of a group: a role."""
    return f"{brief.name.snake}_{key}"


def capabilities(brief: Brief) -> list[str]:
    """Return everything that a module lets be done, as capabilities."""
    own = [capability(brief, record, verb) for record in brief.records for verb in VERBS]
    return own + [permission_name(brief, one.key) for one in brief.permissions]


def roles(brief: Brief) -> dict[str, list[str]]:
    """Return what each group may do, by its key, closed over the groups that it includes."""
    own: dict[str, list[tuple[str, str]]] = {}
    includes: dict[str, list[str]] = {}
    for group in brief.groups:
        named = [(brief.record(name), verb) for name, verbs in group.may for verb in verbs]
        own[group.key] = [(capability(brief, record, verb), "") for record, verb in named if record is not None]
        for name in group.also:
            own[group.key] += [
                (permission_name(brief, one.key), "") for one in brief.permissions if same_name(one.name.title, name)
            ]
        includes[group.key] = [
            one.key for one in brief.groups for name in group.includes if same_name(one.name.title, name)
        ]
    order = capabilities(brief)
    return {key: sorted((name for name, _ in closed(own, includes, key)), key=order.index) for key in own}


def needs_of(brief: Brief, access: str) -> str:
    """Return what an access asks for, in the word of the made code: anyone, signed in, or a capability."""
    if access in _KEPT:
        return _KEPT[access]
    right = needed_right(brief, access)
    assert right is not None
    verb, name = right
    record = brief.record(name) if name else None
    if record is not None:
        return capability(brief, record, verb)
    return permission_name(brief, next(one.key for one in brief.permissions if same_name(one.name.title, verb)))


def as_capability(needs: str) -> str:
    """Return a capability of the host for what an access asks for: everybody has ``exist``."""
    return {"anyone": "exist", "signed in": "read"}.get(needs, needs)


def stem_of(path_words: tuple[str, ...]) -> str:
    """Return the word by which a page is known in names."""
    return "_".join(path_words)
