"""Scripts that run inside the host, in PHP."""
