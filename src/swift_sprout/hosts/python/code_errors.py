"""Errors that come of code alone, told apart from those that come of values that were made up to try it."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

#  kinds of errors that code has whatever the values are that it works on
_OF_CODE = frozenset(
    {
        "AttributeError",
        "KeyError",
        "NameError",
        "UnboundLocalError",
        "ImportError",
        "ModuleNotFoundError",
        "TypeError",
        "RecursionError",
        # Django
        "NoReverseMatch",
        "FieldError",
        "FieldDoesNotExist",
        "TemplateSyntaxError",
        "TemplateDoesNotExist",
        "ImproperlyConfigured",
        "MultiValueDictKeyError",
        # Flask and Jinja
        "BuildError",
        "BadRequestKeyError",
        "TemplateNotFound",
        "UndefinedError",
    }
)
#  but not where a value is absent, or of another sort than somebody would have written
_OF_VALUES = re.compile(r"None|'(?:str|int|float|dict|list|tuple|_local)' object|_thread|^'(?:sample)?'$|: ''|\(''")
#  what a database says of a statement that it cannot run at all
_STATEMENT = re.compile(r"no such (?:table|column)|has no column|syntax error|does not exist", re.IGNORECASE)


def is_of_code(error: Mapping[str, Any]) -> bool:
    """True for an error, as a probe tells it, that comes of the code alone, though what it met was made up."""
    last = error["chain"][-1]
    kind, text = str(last["kind"]).rpartition(".")[2], str(last["text"])
    if kind in ("OperationalError", "ProgrammingError"):
        return _STATEMENT.search(text) is not None
    if kind not in _OF_CODE or _OF_VALUES.search(text):
        return False
    return kind != "TypeError" or "argument" in text


def said_of_form(error: Mapping[str, Any], otherwise: str) -> str:
    """Return what went wrong with a form that was sent: a value that is asked for and not sent is told as that."""
    last = error["chain"][-1]
    wanted = re.findall(r"'([^']+)'", str(last["text"]))
    if str(last["kind"]) in ("MultiValueDictKeyError", "BadRequestKeyError") and wanted:
        return f"it asks for {wanted[-1]}, which the form does not send"
    return otherwise
