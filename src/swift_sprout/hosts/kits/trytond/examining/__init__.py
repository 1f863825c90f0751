"""Examining modules: rules and evidence."""
