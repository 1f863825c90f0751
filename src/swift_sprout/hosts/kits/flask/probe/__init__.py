"""What runs in the host's own interpreter."""
