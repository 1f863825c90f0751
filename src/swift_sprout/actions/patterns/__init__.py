"""Patterns of a project: taken from a module, kept, tried, and made into modules."""
