"""One Wagtail host: a Django project, with rules of its own."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ....core.changes import ChangeSet
from ...contract.exchange import Mend
from ..django.host import DjangoHost
from ..django.view import FurtherRules

if TYPE_CHECKING:
    from ....core.findings import Finding
    from ..django.composing.shared import Further


class WagtailHost(DjangoHost):
    """A Django project with Wagtail at ``root``."""

    @property
    def further(self) -> Further:
        """What modules of a content host have beside what Django's have."""
        from ..django.composing.shared import Further
        from .composing import content_values

        return Further(content_values)

    def mend(self, finding: Finding) -> Mend:
        """Return the mend of a finding: pages that the module wants in the tree are made when it is settled."""
        if finding.code == "placed.page-absent":
            return Mend(ChangeSet(f"mend {finding.code} of {finding.module}"), settle=True)
        return super().mend(finding)

    @property
    def rules(self) -> FurtherRules:
        """The rules of this kit, beside those of Django."""
        from .rules import LIVE, LIVE_OF_HOST, STANDING, STATIC

        return FurtherRules(STATIC, LIVE, STANDING, live_of_host=LIVE_OF_HOST)
