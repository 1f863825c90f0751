"""Locks and what passes them."""
