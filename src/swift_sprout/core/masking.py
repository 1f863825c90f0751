"""Secrets that hosts keep in their settings, kept out of what is told.

A secret is known by its name where it is assigned, by its place in an address, and by its value once it was seen in the
host's settings, in the environment, or in the running host.
"""

from __future__ import annotations

import os
import re
from collections.abc import Callable, Iterable
from functools import cache

MASK = "•••"
SHORTEST = 6  # shorter values stand in too many harmless places
_NAME = r"[\w.-]*(?:secret|passw(?:or)?d|passphrase|pwd|token|api_?key|private_?key|auth_?key|nonce_key|salt)[\w.-]*"
#  one of these is in every such name: patterns take long to compile, and most texts hold none
_SIGNS = (
    *("secret", "passw", "passphrase", "pwd", "token", "salt", "nonce_key"),
    *("apikey", "api_key", "privatekey", "private_key", "authkey", "auth_key"),
)


@cache
def _in_quotes() -> re.Pattern[str]:
    return re.compile(rf"(?i)\b({_NAME}[\"']?\]?\s*(?:=>|=|:|,)\s*)([\"'])((?:(?!\2).)+)(\2)")


@cache
def _on_lines() -> re.Pattern[str]:
    return re.compile(rf"(?im)^(\s*[+-]?\s*{_NAME}[ \t]*=[ \t]*)([^\s\"'(\[{{][^\s(\[{{]*)[ \t]*$")


@cache
def _in_addresses() -> re.Pattern[str]:
    return re.compile(r"([a-z][a-z0-9+.-]*://[^\s:/@'\"]*:)([^\s@/'\"]+)(@)")


def masked(text: str, known: Iterable[str] = ()) -> str:
    """Return a text with the secrets in it hidden; ``known`` are values that are hidden wherever they stand."""
    for value in known:
        text = text.replace(value, MASK)
    plain = text.lower()
    if any(sign in plain for sign in _SIGNS):
        if "'" in text or '"' in text:
            text = _in_quotes().sub(rf"\1\2{MASK}\4", text)
        if "=" in text:
            text = _on_lines().sub(rf"\1{MASK}", text)
    if "://" in text and "@" in text:
        text = _in_addresses().sub(rf"\1{MASK}\3", text)
    return text


def secrets_in(text: str) -> set[str]:
    """Return the values of the secrets that a text assigns, such as a file of settings."""
    found = {match.group(3) for match in _in_quotes().finditer(text)}
    found |= {match.group(2) for match in _on_lines().finditer(text)}
    found |= {match.group(2) for match in _in_addresses().finditer(text)}
    return {value for value in found if len(value) >= SHORTEST}


_learnt: set[str] = set()
_sources: list[Callable[[], Iterable[str]]] = []


@cache
def _named() -> re.Pattern[str]:
    return re.compile(f"(?i){_NAME}")


_NO_SECRETS = frozenset({"PWD", "OLDPWD"})  # folders, in every shell


def is_secret(name: str) -> bool:
    """True for a name under which secrets are kept."""
    return _named().fullmatch(name) is not None and name.upper() not in _NO_SECRETS


def in_addresses(text: str) -> set[str]:
    """Return the passwords that stand in addresses of a text."""
    return {match.group(2) for match in _in_addresses().finditer(text)}


def learn(values: Iterable[object]) -> None:
    """Keep in mind values of secrets, such as those that a running host told."""
    _learnt.update(one for one in values if isinstance(one, str) and len(one) >= SHORTEST)


def learn_from(source: Callable[[], Iterable[str]]) -> None:
    """Name a source of values, which is asked when they are needed, once."""
    _sources.append(source)


def known_values() -> frozenset[str]:
    """Return the values of all secrets that are known: learnt, from sources, and from the environment."""
    while _sources:
        try:
            learn(_sources.pop()())
        except Exception:  # what cannot be read hides nothing of what is being told meanwhile
            continue
    learn(value for name, value in os.environ.items() if is_secret(name))
    return frozenset(_learnt)
