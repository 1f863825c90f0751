"""The kits, a folder each."""
