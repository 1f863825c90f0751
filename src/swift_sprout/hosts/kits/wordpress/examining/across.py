"""What findings of one module have to do with those of another: who only suffers is not blamed."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from .....core.findings import of_another

if TYPE_CHECKING:
    from .....core.results import ModuleCheck

#  what pages look like whose template somebody else's filter lost
_WITHOUT_TEMPLATE = ("served.empty", "served.cut-off", "served.not-own", "served.template-absent")


def relate(modules: Sequence[ModuleCheck]) -> None:
    """Mark findings about pages that follow from a filter for templates that a function of another module lost."""
    losers = [
        module.module
        for module in modules
        for finding in module.findings
        if finding.code == "registered.filter-loses" and "template" in finding.value("hook")
    ]
    for module in modules if losers else ():
        for number, finding in enumerate(module.findings):
            others = [name for name in losers if name != module.module]
            if finding.code in _WITHOUT_TEMPLATE and not finding.follows_from and others:
                follows = of_another("registered.filter-loses", others[0])
                module.findings[number] = finding._replace(follows_from=follows)
