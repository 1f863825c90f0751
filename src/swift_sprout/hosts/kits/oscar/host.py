"""One django-oscar host: a Django project, with parts and rules of its own."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ....core.changes import ChangeSet
from ...contract.exchange import Mend
from ..django.host import DjangoHost
from ..django.view import FurtherRules

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from ....core.brief import Brief
    from ....core.findings import Finding
    from ....core.modulefolders import ModuleFolder
    from ...contract.kitdata import KitData
    from ..django.composing.shared import Further, Site, Values

#  causes that are gone when the module is settled: its rows are made then
SETTLED = ("installed.shop-row-absent", "installed.attribute-absent")


class OscarHost(DjangoHost):
    """A shop of django-oscar at ``root``."""

    @property
    def further(self) -> Further:
        """What modules of a shop have beside what Django's have."""
        from ..django.composing.shared import Further
        from .composing import shop_files, shop_values
        from .extending import extension_values

        def values(data: KitData, brief: Brief, site: Site) -> Values:
            extended = {"extended_apps": extension_values(self.view, data, brief, site.dotted)}
            return shop_values(data, brief, site) | extended

        return Further(values, shop_files)

    def compose(self, brief: Brief, place: ModuleFolder) -> ChangeSet:
        """Return the change set that makes a module, with the first migrations of what it extends."""
        from .extending import extension_migrations

        changes = super().compose(brief, place)
        folder = brief.name.snake if place.folder == "." else f"{place.folder}/{brief.name.snake}"
        none = brief._replace(extensions=())
        for path, content in extension_migrations(self.view, self.data, none, brief, {}).items():
            changes.add(f"{folder}/{path}", None, content)
        return changes

    def migrations(self, module: str, before: Brief, after: Brief, changed: Mapping[str, bytes]) -> dict[str, bytes]:
        """Return the migrations that lead from one brief to another, those of what the module extends among them."""
        from ..django.composing.migrations import names_in
        from .extending import extension_migrations

        folder = self.root / self.folder(module)
        there: dict[str, Sequence[str]] = {one.label: names_in(folder / one.label) for one in after.extensions}
        files = super().migrations(module, before, after, changed)
        return files | extension_migrations(self.view, self.data, before, after, there)

    def mend(self, finding: Finding) -> Mend:
        """Return the mend of a finding: rows that the module wants in the shop are made when it is settled."""
        if finding.code in SETTLED:
            return Mend(ChangeSet(f"mend {finding.code} of {finding.module}"), settle=True)
        return super().mend(finding)

    @property
    def rules(self) -> FurtherRules:
        """The rules of this kit, beside those of Django."""
        from .rules import LIVE, LIVE_OF_HOST, OF_HOST, STANDING, STATIC

        return FurtherRules(STATIC, LIVE, STANDING, OF_HOST, LIVE_OF_HOST)
