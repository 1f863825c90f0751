"""The rules of the django-oscar kit, beside those of Django: from files, and from what the running shop says."""

from __future__ import annotations

from . import buying, configs, menu, overrides, selling, setup, shop, statuses

OF_HOST = (selling.templates_of_site, *setup.OF_HOST)
STATIC = (*configs.RULES, *menu.STATIC, *overrides.RULES, *statuses.RULES, *selling.RULES)
LIVE = (*menu.LIVE, *shop.RULES, *buying.LIVE, configs.rights)
LIVE_OF_HOST = buying.LIVE_OF_HOST
STANDING = (menu.standing, shop.standing, buying.standing)
