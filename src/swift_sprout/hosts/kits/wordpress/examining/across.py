"""What findings of one module have to do with those of another: who only suffers is not blamed."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from .....core.findings import of_another

if TYPE_CHECKING:
    from .....core.findings import Finding
    from .....core.results import ModuleCheck

#  what pages look like whose template somebody else's filter lost
_WITHOUT_TEMPLATE = ("served.empty", "served.cut-off", "served.not-own", "served.template-absent")


NOT_A_MODULE = "wp-load.php"  # the place of what breaks in the host's own code, or in ours


def relate(modules: Sequence[ModuleCheck], of_host: list[Finding]) -> None:
    """Mark findings that follow from a value of a filter that a function of a module lost.

    They are about pages of others, and about what the host itself could not be asked for.
    """
    lost = [
        (module.module, finding.code)
        for module in modules
        for finding in module.findings
        if finding.code == "registered.filter-loses"
    ]
    for number, finding in enumerate(of_host if lost else ()):
        if finding.code == "served.not-told" and finding.file == NOT_A_MODULE:
            of_host[number] = finding._replace(follows_from=of_another(lost[0][1], lost[0][0]))
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
