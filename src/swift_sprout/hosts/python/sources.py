"""The Python of a host: which files may be read."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from ...caching.listing import list_tree
from ...disk.guard import read_content

LARGEST_BYTES = 1_000_000  # what is larger was not written by people


def python_files(root: Path) -> list[str]:
    """Return the Python files below a folder, in order.

    Pipes, devices, what is very large, and environments are left out.
    """
    return sorted(one[0] for one in list_tree(str(root)) if one[0].endswith(".py") and 0 < one[2] <= LARGEST_BYTES)


def python_texts(root: Path) -> Iterator[str]:
    """Yield the texts of the Python files below a folder; of one that cannot be read, none."""
    for place in python_files(root):
        try:
            yield read_content(place).decode("utf-8", "replace")
        except OSError:
            continue
