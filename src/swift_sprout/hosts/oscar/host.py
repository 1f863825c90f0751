"""One django-oscar host: a Django project, with parts and rules of its own."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

from ...core.changes import ChangeSet
from ..django.host import DjangoHost
from ..django.view import HostView
from ..protocol import Mend

if TYPE_CHECKING:
    from ...core.findings import Finding
    from ..django.composing.shared import Further

#  causes that are gone when the module is settled: its rows are made then
SETTLED = ("installed.shop-row-absent", "installed.attribute-absent")


class OscarHost(DjangoHost):
    """A shop of django-oscar at ``root``."""

    @property
    def further(self) -> Further:
        """What modules of a shop have beside what Django's have."""
        from ..django.composing.shared import Further
        from .composing import shop_files, shop_values

        return Further(shop_values, shop_files)

    def mend(self, finding: Finding) -> Mend:
        """Return the mend of a finding: rows that the module wants in the shop are made when it is settled."""
        if finding.code in SETTLED:
            return Mend(ChangeSet(f"mend {finding.code} of {finding.module}"), settle=True)
        return super().mend(finding)

    @cached_property
    def view(self) -> HostView:
        """The host as its files show it now, with the rules of this kit beside those of Django."""
        from .rules import LIVE, STATIC

        view = HostView(self.root, self.data, self.options.runtime)
        view.database_copies = self.database_copies
        view.further = (STATIC, LIVE)
        return view
