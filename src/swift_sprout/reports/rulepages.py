"""Where the page lies that explains a rule: at the address that the project names, else with the program itself."""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path
from urllib.parse import quote

from ..core.errors import Refused

INSTALLED = "share/doc/swift-sprout"
PLACES = ("{kit}", "{rule}")


def check_address(address: str, source: str) -> None:
    """Raise Refused for an address that no rule can be put into; ``source`` is where it was written."""
    if not address.startswith(("https://", "http://", "file://")) or PLACES[1] not in address:
        raise Refused(
            "settings-wrong",
            f"{source}: rule_pages: {address!r} is no address of rules.",
            "Write an address with {rule} in it, and {kit} where kits have pages of their own.",
        )


class RulePages:
    """The pages of the rules of one host: of its kit, and of the one that it builds on.

    kit_of  -- tells of a rule which kit's it is
    address -- an address with ``{kit}`` and ``{rule}`` in it; empty where the project names none

    """

    def __init__(self, kit_of: Callable[[str], str], address: str = "") -> None:
        self._kit_of = kit_of
        self._address = address

    def published(self, code: str) -> str:
        """Return the address that everybody can open; empty where the project names none."""
        if not self._address:
            return ""
        return self._address.replace(PLACES[0], quote(self._kit_of(code))).replace(PLACES[1], quote(code))

    def here(self, code: str) -> str:
        """Return an address that can be opened on this machine; empty where the program came without its pages."""
        if self._address:
            return self.published(code)
        name = f"rules-{self._kit_of(code)}.md"
        repository = Path(__file__).parents[3] / "docs"  # where the program runs from its sources
        for folder in (Path(sys.prefix) / INSTALLED, repository):
            if (folder / name).is_file():
                return f"{(folder / name).as_uri()}#{quote(code)}"
        return ""
