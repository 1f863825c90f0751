"""The rules of the Wagtail kit, beside those of Django: from files, and from what the running host's tree says."""

from __future__ import annotations

from . import desks, drawing, editing, files, setup, tree

STATIC = (*files.RULES, *editing.STATIC, *drawing.RULES, *setup.RULES)
LIVE = (*tree.RULES, *editing.LIVE, *desks.LIVE)
LIVE_OF_HOST = desks.LIVE_OF_HOST
STANDING = (tree.reached,)
