"""Telling errors that code has whatever it is used with from what only says that a trial row may not be."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping
from typing import Any

_ATTRIBUTE = re.compile(r"has no attribute '(\w+)'")


def is_broken(one: Mapping[str, Any]) -> bool:
    """True for an error that code has whatever it is called with; trial rows and the host's checks lack values."""
    kind, text = one["kind"], str(one["text"])
    if kind == "NoAnswer":
        return True
    if "NoneType" in text or " Model has no attribute " in text:
        return False  # nothing, or a row that is none, where a trial row lacks a value
    if kind == "KeyError":
        return "." in text  # a model; other keys may come from the context
    if kind == "TypeError":  # of the host's own code only what it is called with: the rest may come of made up values
        in_module = bool(one["frames"]) and one["frames"][-1] == one["last"]
        return in_module or "argument" in text
    return kind in ("AttributeError", "NameError", "UnboundLocalError", "SyntaxError", "OperationalError") or (
        kind.endswith("ImportError") or kind == "ModuleNotFoundError"
    )


def what_broke(error: Mapping[str, Any], fields: Collection[str] = ()) -> Mapping[str, Any] | None:
    """Return the error of a chain, the cause first, that shows broken code; None where none does.

    fields -- what the model has: a row that is not kept yet lacks those that were not given
    """
    for one in reversed(error["chain"]):
        if is_broken(one):
            attribute = _ATTRIBUTE.search(str(one["text"]))
            return None if attribute and attribute[1] in fields else one
    return None


def unset_field(error: Mapping[str, Any], fields: Collection[str]) -> str:
    """Return the field of the model that a row was asked for without having it; empty where it was none."""
    for one in error["chain"]:
        attribute = _ATTRIBUTE.search(str(one["text"])) if one["kind"] == "AttributeError" else None
        if attribute and attribute[1] in fields:
            return attribute[1]
    return ""


def in_words(one: Mapping[str, Any]) -> str:
    """Return an error in one line."""
    text = " ".join(str(one["text"]).split())[:300]
    return f"{one['kind']}: {text}" if text and one["kind"] != "NoAnswer" else text or str(one["kind"])
