"""Putting one thing into an existing file without disturbing the rest; one file per syntax, no disk access."""
