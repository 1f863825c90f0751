"""Entries of the host's list of modules."""

from __future__ import annotations


def package_of(entry: str) -> str:
    """Return the package that an entry of the host's list names: itself, or that of the config class that it names."""
    package, dot, name = entry.rpartition(".")
    return package.removesuffix(".apps") if dot and name[:1].isupper() else entry
