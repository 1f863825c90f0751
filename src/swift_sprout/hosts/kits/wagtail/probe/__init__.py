"""The script that asks a running Wagtail host."""
