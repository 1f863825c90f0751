"""What is wrong, and why: rules over what was read and what the running host told."""
