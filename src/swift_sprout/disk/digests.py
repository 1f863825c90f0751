"""Digests of content, by which a file is known again.

The interpreter's own functions are taken where they can be had: ``hashlib`` loads a library for all cryptography,
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
try:
    _blake2b = __import__("_blake2").blake2b
except ImportError:
    from hashlib import blake2b as _blake2b


def digest_of(content: bytes) -> str:
    """Return the SHA-256 of content, in hexadecimal."""
    digest: str = _sha256(content).hexdigest()
    return digest


def short_digest_of(*pieces: bytes) -> str:
    """Return a digest of 20 bytes that is made more quickly, in hexadecimal: for what stays on this machine."""
    digest = _blake2b(digest_size=20)
    for piece in pieces:
        digest.update(piece)
    told: str = digest.hexdigest()
    return told
