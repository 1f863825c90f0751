"""Digests of content, by which a file is known again.

The interpreter's own SHA-256 is taken where it can be had: ``hashlib`` loads a library for all kinds of cryptography,
which takes longer than all else that a small command does.
"""

from __future__ import annotations

import sys

if sys.version_info >= (3, 12):
    _PLAIN = "_sha2"
else:
    _PLAIN = "_sha256"
try:
    _sha256 = __import__(_PLAIN).sha256
except ImportError:
    from hashlib import sha256 as _sha256


def digest_of(content: bytes) -> str:
    """Return the SHA-256 of content, in hexadecimal."""
    digest: str = _sha256(content).hexdigest()
    return digest
