"""Scripts that run inside the host, by the host's interpreter; nothing here is imported by swift-sprout."""
