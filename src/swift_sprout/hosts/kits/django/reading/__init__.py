"""Reading a Django host's files without running any of them."""
