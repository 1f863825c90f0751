"""Host kinds: one folder each behind the protocol of ``protocol.py``; ``registry.py`` finds them."""
