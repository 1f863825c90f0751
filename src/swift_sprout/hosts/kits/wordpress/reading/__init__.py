"""Reading a host and its modules from their files alone."""
