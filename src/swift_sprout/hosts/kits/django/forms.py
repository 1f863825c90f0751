"""The forms of a page that change something, and what keeps forged requests from them."""

from __future__ import annotations

import re
from html.parser import HTMLParser
from typing import TYPE_CHECKING
from urllib.parse import urljoin, urlsplit

if TYPE_CHECKING:
    from collections.abc import Mapping

    from ....running.loopback import Response

#  what a page's own scripts speak of when they add the token by themselves
_BY_SCRIPT = re.compile(rb"csrf", re.IGNORECASE)
_TOKEN_FIELD = re.compile(rb"<input[^>]*csrfmiddlewaretoken[^>]*>", re.IGNORECASE)


def unguarded_targets(path: str, answer: Response) -> list[str]:
    """Return the paths of this host that a page sends a form to without the token, each once.

    A page that speaks of the token elsewhere than in a field of a form is left out: a script may add it there.
    """
    if answer.status != 200 or "html" not in answer.headers.get("content-type", "") or b"<form" not in answer.body:
        return []
    if _BY_SCRIPT.search(_TOKEN_FIELD.sub(b"", answer.body)):
        return []
    forms = _Forms()
    forms.feed(answer.body.decode("utf-8", "replace"))
    found = [urlsplit(urljoin(path, action)) for action in forms.without_token]
    return list(dict.fromkeys(one.path for one in found if not one.netloc and one.scheme in ("", "http")))


class _Forms(HTMLParser):
    """Collects where forms are sent to by POST that hold no token."""

    def __init__(self) -> None:
        super().__init__()
        self.without_token: list[str] = []
        self._open: str | None = None

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        values: Mapping[str, str | None] = dict(attrs)
        if tag == "form" and (values.get("method") or "").lower() == "post":
            by_script = any(name.startswith(("hx-", "data-", "on", "x-", "@", "v-")) for name in values)
            self._open = None if by_script else values.get("action") or ""
        elif tag == "input" and values.get("name") == "csrfmiddlewaretoken":
            self._open = None

    def handle_endtag(self, tag: str) -> None:
        if tag == "form" and self._open is not None:
            self.without_token.append(self._open)
            self._open = None
