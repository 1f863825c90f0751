"""How the demo host on django-oscar is tried out."""

from __future__ import annotations

from ...django.trial import DjangoTrial


class OscarTrial(DjangoTrial):
    """Its modules bring their addresses by their app config, and one of ours overrides one of the shop's own."""

    brief = "chandlery_offers"
    overrides = ("landing",)
    include = '    path("", apps.get_app_config("{name}").urls),\n'
    include_before = "    # the shop answers at the root\n"


TRIAL = OscarTrial()
