"""The field grammar: one line says a record's field, in a brief and on the command line alike.

station: text(80)
note: long text, optional
state: choice(asked, granted, refused), default asked
berth -> Berth (bookings)
crew ->> harbour_office.Clerk, optional
"""

from __future__ import annotations

import re
from functools import lru_cache
from typing import NamedTuple

from .errors import WrongUse
from .names import words_of
from .nearest import did_you_mean

TYPES: dict[str, str] = {
    "text": "one line of text, text(80) for at most 80 characters",
    "long text": "text of any length",
    "integer": "a whole number",
    "decimal": "an exact number, decimal(6,2) for 6 digits of which 2 after the point",
    "number": "a number with a floating point",
    "yes/no": "true or false",
    "date": "a day",
    "time": "a time of day",
    "datetime": "a day with a time",
    "duration": "a length of time",
    "choice": 'one of a few words, choice(asked, granted) or choice(a=Asked, g="Granted, paid")',
    "email": "an e-mail address",
    "link": "a web address",
    "slug": "a short label for addresses",
    "uuid": "a universally unique identifier",
    "json": "structured data",
    "file": "an uploaded file",
    "image": "a picture of the host's own library",
    "document": "a file of the host's own library",
    "content": "pieces that editors put together, content(heading, paragraph, image)",
}
#  what a field of structured content can be made of
PIECES = ("heading", "paragraph", "image", "document", "quote", "link")
_SAME_AS = {
    "string": "text",
    "longtext": "long text",
    "int": "integer",
    "whole number": "integer",
    "float": "number",
    "bool": "yes/no",
    "boolean": "yes/no",
    "url": "link",
    "web address": "link",
    "e-mail": "email",
}
OPTIONS = ("optional", "unique", "default", "label", "help")
_NAME = re.compile(r"[a-z][a-z0-9_]*\Z")
_TARGET = re.compile(r"(?:[a-z][a-z0-9_]*\.)?[A-Za-z][A-Za-z0-9 ]*\Z")


class Choice(NamedTuple):
    """One choice of a choice field: the stored value and the label people see."""

    value: str
    label: str


class Field(NamedTuple):
    """One field of a record.

    type    -- a key of TYPES, or ``one`` / ``many`` for a relation
    length, digits, places -- sizes where the type has them, else None
    target  -- the record a relation points at: ``Berth``, ``other_module.Berth`` or ``user``
    reverse -- the name under which the target reaches back; empty for the host's own
    default -- the default as text that fits the type; None when there is none
    pieces  -- of which kinds of pieces structured content is made; empty for other types
    """

    name: str
    type: str
    label: str
    length: int | None = None
    digits: int | None = None
    places: int | None = None
    choices: tuple[Choice, ...] = ()
    target: str = ""
    reverse: str = ""
    optional: bool = False
    unique: bool = False
    default: str | None = None
    help: str = ""
    pieces: tuple[str, ...] = ()

    @property
    def is_relation(self) -> bool:
        """True for a field that points at other records."""
        return self.type in ("one", "many")


@lru_cache(maxsize=4096)
def parse_field(text: str) -> Field:
    """Read one field from its line; raises WrongUse that says what cannot be read."""
    first, *options = [piece.strip() for piece in split_outside(text, ",")]
    return _with_options(_declared(first), options)


def parse_record_line(text: str) -> tuple[str, list[Field]]:
    """Read ``Name: field, field, …``; returns the record's name and its fields.

    A piece that begins with an option word (optional, unique, default, help) belongs to the field before it.
    """
    name, colon, rest = text.partition(":")
    if not colon or not name.strip():
        raise WrongUse(
            "record-line",
            f"The record {text!r} has no name before a colon.",
            'Write it as "Berth: name text(40), depth_m decimal(4,1)".',
        )
    groups: list[list[str]] = []
    for piece in (piece.strip() for piece in split_outside(rest, ",")):
        if not piece:
            continue
        if groups and piece.split()[0] in OPTIONS and ":" not in piece.split("(")[0]:
            groups[-1].append(piece)
        else:
            groups.append([piece])
    if not groups:
        raise WrongUse(
            "record-empty",
            f"The record {name.strip()!r} has no fields.",
            'Name at least one, such as "name text(40)".',
        )
    return name.strip(), [_with_options(_declared(group[0]), group[1:]) for group in groups]


def split_outside(text: str, separator: str) -> list[str]:
    """Split at a one-letter separator that stands outside parentheses and double quotes."""
    pieces, depth, quoted, start = [], 0, False, 0
    for index, letter in enumerate(text):
        if letter == '"':
            quoted = not quoted
        elif not quoted:
            depth += {"(": 1, ")": -1}.get(letter, 0)
            if letter == separator and depth == 0:
                pieces.append(text[start:index])
                start = index + 1
    if quoted or depth:
        raise WrongUse(
            "field-unbalanced",
            f"In {text.strip()!r} a {'quote' if quoted else 'parenthesis'} is not closed.",
            "Close it.",
        )
    return [*pieces, text[start:]]


def _declared(text: str) -> Field:
    relation = re.match(r"(?P<name>[^:>-]+?)\s*:?\s*(?P<arrow>->>?)\s*(?P<rest>.+)\Z", text)
    if relation:
        return _relation(text, *relation.group("name", "arrow", "rest"))
    if ":" in text.split("(")[0]:
        name, _, rest = text.partition(":")
    else:
        name, _, rest = text.partition(" ")
    rest = rest.strip()
    if not rest:
        raise WrongUse("field-without-type", f"The field {text!r} has no type.", 'Write it as "name text(40)".')
    word, parenthesis, inside = rest.partition("(")
    given = " ".join(word.split()).lower()
    kind = _SAME_AS.get(given, given)
    option, _, behind = given.partition(" ")
    if option in ("optional", "unique") and behind and kind not in TYPES:
        raise WrongUse(
            "field-syntax",
            f"The field {name.strip()!r} has {option!r} before its type.",
            f'Options follow the type: "{name.strip()} {rest[len(option) :].strip()}, {option}".',
        )
    if kind not in TYPES:
        raise WrongUse(
            "field-type",
            f"The field {name.strip()!r} has the unknown type {given!r}.",
            did_you_mean(given, [*TYPES, *_SAME_AS]),
        )
    if parenthesis and not inside.rstrip().endswith(")"):
        raise WrongUse(
            "field-syntax",
            f"The field {name.strip()!r} has text after its type: {rest!r}.",
            "Put a comma between the type and each option.",
        )
    arguments = inside.rstrip()[:-1] if parenthesis else ""
    field_name, label = _field_name(name)
    return Field(field_name, kind, label, **_sizes(field_name, kind, arguments))  # type: ignore[arg-type]


def _relation(text: str, name: str, arrow: str, rest: str) -> Field:
    target, parenthesis, inside = rest.partition("(")
    target = " ".join(target.split())
    if not _TARGET.match(target):
        raise WrongUse(
            "field-target",
            f"The field {text!r} points at {target!r}, which is no record's name.",
            'Name a record, such as "berth -> Berth", "berth -> berth_register.Berth" or "clerk -> user".',
        )
    field_name, label = _field_name(name)
    reverse = inside.rstrip().removesuffix(")").strip() if parenthesis else ""
    if reverse:
        reverse = _field_name(reverse)[0]
    return Field(field_name, "many" if arrow == "->>" else "one", label, target=target, reverse=reverse)


def _field_name(text: str) -> tuple[str, str]:
    words, foreign = words_of(text)
    name = "_".join(words)
    if foreign or not _NAME.match(name):
        raise WrongUse(
            "field-name",
            f"A field cannot be named {text.strip()!r}.",
            "Use Latin letters, digits and underscores, and begin with a letter.",
        )
    if text.strip() == text.strip().lower() and re.fullmatch(r"[a-z0-9_]+", text.strip()):
        name = text.strip()
    return name, " ".join(words).capitalize()


def _sizes(name: str, kind: str, arguments: str) -> dict[str, object]:
    pieces = [piece.strip() for piece in split_outside(arguments, ",")] if arguments.strip() else []
    if kind == "text":
        return {"length": _whole(name, pieces[0], 1, 10_000) if pieces else 200}
    if kind == "decimal":
        if len(pieces) not in (0, 2):
            raise WrongUse("field-size", f"The field {name!r} wants two sizes.", "Write it as decimal(6,2).")
        digits = _whole(name, pieces[0], 1, 60) if pieces else 10
        places = _whole(name, pieces[1], 0, 60) if pieces else 2
        if places > digits:
            raise WrongUse(
                "field-size",
                f"The field {name!r} has more places after the point ({places}) than digits ({digits}).",
                "The first number counts all digits.",
            )
        return {"digits": digits, "places": places}
    if kind == "choice":
        return {"choices": _choices(name, pieces)}
    if kind == "content":
        return {"pieces": _pieces(name, pieces)}
    if pieces:
        raise WrongUse("field-size", f"The field {name!r} of type {kind} takes no size.", "Leave it out.")
    return {}


def _pieces(name: str, pieces: list[str]) -> tuple[str, ...]:
    for piece in pieces:
        if piece not in PIECES:
            raise WrongUse(
                "field-piece", f"The field {name!r} has the unknown piece {piece!r}.", did_you_mean(piece, PIECES)
            )
    return tuple(dict.fromkeys(pieces)) or PIECES


def _whole(name: str, text: str, least: int, most: int) -> int:
    if not text.isascii() or not text.isdigit() or len(text) > 9 or not least <= int(text) <= most:
        raise WrongUse(
            "field-size", f"The field {name!r} has the size {text[:40]!r}.", f"Give a number from {least} to {most}."
        )
    return int(text)


def _choices(name: str, pieces: list[str]) -> tuple[Choice, ...]:
    choices: list[Choice] = []
    for piece in pieces:
        value, equals, label = piece.partition("=")
        label = _unquoted((label if equals else value).strip()).strip()
        words, foreign = words_of(value)
        if foreign or not words or not label:
            raise WrongUse(
                "field-choice",
                f"The field {name!r} has the choice {piece!r}, from which no stored value can be made.",
                'Say value and label: choice(asked="…", granted="…").',
            )
        choices.append(Choice("_".join(words), label if equals or " " in label else label[:1].upper() + label[1:]))
    if len({choice.value for choice in choices}) != len(choices) or not choices:
        raise WrongUse(
            "field-choice",
            f"The field {name!r} has {'the same choice twice' if choices else 'no choices'}.",
            "Write it as choice(asked, granted, refused).",
        )
    return tuple(choices)


def _with_options(field: Field, options: list[str]) -> Field:
    changes: dict[str, object] = {}
    for option in options:
        word, _, value = option.partition(" ")
        value = value.strip()
        if word in ("optional", "unique") and not value:
            changes[word] = True
        elif word == "default" and value:
            changes["default"] = _checked_default(field, value)
        elif word == "help" and value:
            changes["help"] = _unquoted(value)
        elif word == "label" and value:
            changes["label"] = _unquoted(value)
        elif word in ("default", "label", "help"):
            raise WrongUse(
                "field-option", f"The field {field.name!r} has {word!r} without a value.", f'Write "{word} …".'
            )
        else:
            raise WrongUse(
                "field-option",
                f"The field {field.name!r} has the unknown option {option!r}.",
                did_you_mean(word, OPTIONS),
            )
    return field._replace(**changes)  # type: ignore[arg-type]


def _checked_default(field: Field, text: str) -> str:
    plain = _unquoted(text)
    if fits(field, plain):
        return plain
    raise WrongUse(
        "field-default",
        f"The field {field.name!r} of type {field.type} cannot have the default {text!r}.",
        value_remedy(field).removesuffix(".") + (f", or {_MOMENTS[field.type]}." if field.type in _MOMENTS else "."),
    )


_REMEDIES = {
    "yes/no": "Write yes or no.",
    "integer": "Write a whole number.",
    "number": "Write a number such as 1.5.",
    "date": "Write a day such as 2026-11-23.",
    "time": "Write a time such as 06:30.",
    "datetime": "Write a moment such as 2026-11-23 06:30.",
    "email": "Write an address such as clerk@example.org.",
    "link": "Write an address such as https://example.org/.",
}
#  what fields are filled with when they are made
_MOMENTS = {"date": "today", "datetime": "now"}


def value_remedy(field: Field) -> str:
    """Return what to write as a value of a field."""
    if field.choices:
        return f"Write one of: {', '.join(one.value for one in field.choices)}."
    if field.type == "text":
        return f"Write at most {field.length} letters."
    if field.type == "decimal":
        return f"Write a number of at most {field.digits} digits, {field.places} of them after the point."
    return _REMEDIES.get(field.type, "Write a value that fits the type.")


def fits(field: Field, text: str) -> bool:
    """True when a text can be the value of a field."""
    try:
        return _fits(field, text)
    except (ValueError, ArithmeticError):
        return False


def _unquoted(text: str) -> str:
    """Take the quotes from around a text; a doubled quote inside stands for one."""
    return text.removeprefix('"').removesuffix('"').replace('""', '"')


def _quoted(text: str) -> str:
    return '"' + text.replace('"', '""') + '"'


def spell_field(field: Field) -> str:
    """Write a field back in the field grammar, so that reading it gives the same field."""
    if field.is_relation:
        text = f"{field.name} {'->>' if field.type == 'many' else '->'} {field.target}"
        text += f" ({field.reverse})" if field.reverse else ""
    else:
        sizes = {
            "text": str(field.length),
            "decimal": f"{field.digits},{field.places}",
            "content": ", ".join(field.pieces),
            "choice": ", ".join(f"{choice.value}={_quoted(choice.label)}" for choice in field.choices),
        }.get(field.type)
        text = f"{field.name}: {field.type}" + (f"({sizes})" if sizes else "")
    text += ", optional" if field.optional else ""
    text += ", unique" if field.unique else ""
    if field.default is not None:
        plain = re.fullmatch(r"[\w.:-]+", field.default)
        text += f", default {field.default if plain else _quoted(field.default)}"
    text += f", label {_quoted(field.label)}" if field.label != _field_name(field.name)[1] else ""
    return text + (f", help {_quoted(field.help)}" if field.help else "")


def _fits(field: Field, text: str) -> bool:
    kind = field.type
    if kind in ("text", "slug", "email", "link"):
        return field.length is None or len(text) <= field.length
    if kind == "long text":
        return True
    if kind == "integer":
        return abs(int(text)) < 2**31
    if kind == "number":
        return float(text) == float(text)
    if kind == "decimal":
        from decimal import Decimal

        value = Decimal(text)
        assert field.digits is not None and field.places is not None
        exponent = value.as_tuple().exponent
        if not isinstance(exponent, int) or -exponent > field.places:
            return False
        return abs(value) < Decimal(10) ** (field.digits - field.places)
    if kind == "yes/no":
        return text.lower() in ("yes", "no", "true", "false")
    if kind == "choice":
        return text in {choice.value for choice in field.choices}
    from datetime import date, datetime, time

    if kind == "date":
        return text == "today" or bool(date.fromisoformat(text))
    if kind == "time":
        return time.fromisoformat(text) is not None
    if kind == "datetime":
        return text == "now" or bool(datetime.fromisoformat(text))
    return False
