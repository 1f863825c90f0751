"""Which contents of files are read for names."""

from __future__ import annotations

LARGEST_BYTES = 4_000_000


def is_text(content: bytes) -> bool:
    """True for a content that is read for names."""
    return b"\0" not in content[:8192] and len(content) <= LARGEST_BYTES
