"""Hosts: what a kit is (``contract``), what kits share, and the kits; ``registry`` finds them."""
