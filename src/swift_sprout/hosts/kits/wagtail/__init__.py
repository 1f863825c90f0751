"""The Wagtail kit: Django modules on a content host, and what differs there."""
