"""The rules of this kit beside those of Django: functions from an examination to findings."""

from __future__ import annotations

from . import files, tree

STATIC = files.RULES
LIVE = tree.RULES
