"""Scripts that keep this repository: pages, pictures."""
