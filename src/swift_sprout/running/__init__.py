"""Processes, interpreters, ports and loopback requests: everything that runs a host."""
