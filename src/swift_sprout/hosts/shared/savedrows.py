"""Rows that were written to a file before their tables go: read back, so that nobody rests on what cannot be read."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

from ...core.errors import HostFailed

REMEDY = "Fix that, or keep the data: --data keep."


def count_saved(rows_file: Path, count: Callable[[Any], int]) -> int:
    """Return how many rows a file holds; raises HostFailed for one that cannot be read.

    count -- counts them in what was read
    """
    try:
        return count(json.loads(rows_file.read_text("utf-8")))
    except (OSError, ValueError, TypeError, KeyError, AttributeError) as error:
        raise HostFailed(
            "rows-not-saved", f"The rows in {rows_file} cannot be read back: {error}; the tables stay.", REMEDY
        ) from None
