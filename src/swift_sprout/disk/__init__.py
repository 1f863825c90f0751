"""Writing to a host's tree: one lock, one journal, all or nothing, and the way back."""
