"""What a module's code asks of the host by name, as its text says it: to be looked up by the running host."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from .modules import ModuleFiles

_CALLED = re.compile(rb"(?<![>:$\w\\])\\?([a-z_][a-z0-9_]+)\s*\(")
_DEFINED = re.compile(rb"\bfunction\s+&?([A-Za-z_]\w*)\s*\(|function_exists\(\s*['\"]\\*([A-Za-z_]\w*)")
_OF_DATABASE = re.compile(rb"\$wpdb->(\w+)(\s*\()?")
_SET = re.compile(rb"\$wpdb->(\w+)\s*=(?!=)")
#  words before a parenthesis that are no functions
_WORDS = frozenset(
    {"array", "list", "isset", "unset", "empty", "exit", "die", "eval", "if", "elseif", "while", "for", "foreach"}
    | {"switch", "match", "catch", "function", "fn", "return", "echo", "print", "include", "require", "new", "declare"}
    | {"include_once", "require_once", "and", "or", "xor", "use", "self", "static", "parent"}
)


def names_asked(modules: Iterable[ModuleFiles], every: Iterable[ModuleFiles]) -> dict[str, Any]:
    """Return what modules ask for: functions, members of the host's database object.

    every -- all modules of the host: what one of them defines is there
    """
    functions: set[bytes] = set()
    methods: set[bytes] = set()
    properties: set[bytes] = set()
    for module in modules:
        for content in module.contents.values():
            functions.update(_CALLED.findall(content))
            for name, call in _OF_DATABASE.findall(content):
                (methods if call else properties).add(name)
            properties.difference_update(_SET.findall(content))
    defined = {
        name.lower()
        for module in every
        for content in module.contents.values()
        for pair in _DEFINED.findall(content)
        for name in pair
    }
    called = {name.decode() for name in functions if name.lower() not in defined} - _WORDS
    return {
        "functions": sorted(called),
        "database": [sorted(name.decode() for name in held) for held in (methods, properties)],
    }
