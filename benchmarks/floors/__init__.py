"""What the program is compared with: the same work done bare, as scripts that run by themselves."""
