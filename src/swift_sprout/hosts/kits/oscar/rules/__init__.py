"""The rules of the django-oscar kit, beside those of Django: from files, and from what the running shop says."""

from __future__ import annotations

from . import configs, menu, overrides, selling, setup, shop

OF_HOST = (selling.templates_of_site,)
STATIC = (*configs.RULES, *menu.STATIC, *overrides.RULES, *setup.RULES, *selling.RULES)
LIVE = (*menu.LIVE, *shop.RULES)
STANDING = (menu.standing, shop.standing)
