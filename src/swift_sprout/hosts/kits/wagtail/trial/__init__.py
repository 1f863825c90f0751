"""How the demo host on Wagtail is tried out."""

from __future__ import annotations

from ...django.trial import DjangoTrial


class WagtailTrial(DjangoTrial):
    """Its tree of pages answers at the root, after all else."""

    brief = "tide_pages"
    include_before = '    path("", include(wagtail_urls)),\n'


TRIAL = WagtailTrial()
