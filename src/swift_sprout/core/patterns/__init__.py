"""Patterns: a finished module with marks where its words stand, and other words that are filled in there."""

FOLDER = "sprout-patterns"  # where a project keeps its patterns, in the host's root
