"""Which addresses a pattern answers: what the host's resolver would say, from the files alone (Django 5.2).

What leads elsewhere is not followed here; patterns that cannot be told answer nothing.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from .addresses import Addresses, Route

#  django.urls.converters: what each takes, and something that it takes; those of hosts' own count as text
_TAKES = {"int": "[0-9]+", "str": "[^/]+", "slug": "[-a-zA-Z0-9_]+", "uuid": "[0-9a-f-]{36}", "path": ".+"}
_SAMPLES = {"int": "7", "uuid": "075194d3-6885-417e-a8a8-6c931e272f00"}
_PARAMETER = re.compile(r"<(?:(\w+):)?\w+>")


def sample_address(route: Route) -> str | None:
    """Return an address that a pattern answers; None for one that cannot be told, such as a regular expression."""
    if route.pattern is None or route.regular:
        return None
    return _PARAMETER.sub(lambda found: _SAMPLES.get(found.group(1) or "str", "sample"), route.pattern)


def answers(addresses: Addresses, route: Route, address: str, seen: tuple[str, ...] = ()) -> bool:
    """True when a pattern, or what it includes, answers an address; both without the slash in front."""
    rest = _after(route, address)
    if rest is None:
        return False
    if not route.includes:
        return True
    conf = addresses.file(route.includes) if route.includes not in seen else None
    deeper = (*seen, route.includes)
    return conf is not None and any(answers(addresses, one, rest, deeper) for one in conf.routes)


def answers_itself(route: Route, address: str) -> bool:
    """True when a pattern that includes nothing answers an address."""
    return not route.includes and _after(route, address) is not None


def _after(route: Route, address: str) -> str | None:
    """Return what is left of an address behind a pattern; None where it does not begin with that."""
    if route.pattern is None:
        return None
    if route.regular:
        expression = route.pattern
    else:
        parts = _PARAMETER.split(route.pattern)  # text and converters in turn
        between = [_TAKES.get(part or "str", "[^/]+") if at % 2 else re.escape(part) for at, part in enumerate(parts)]
        expression = "^" + "".join(between) + ("" if route.includes else r"\Z")
    try:
        found = re.search(expression, address)
    except re.error:
        return None
    return address[found.end() :] if found else None
