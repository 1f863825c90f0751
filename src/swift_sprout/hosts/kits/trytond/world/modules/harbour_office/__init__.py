"""Harbour office: what everybody must know."""
