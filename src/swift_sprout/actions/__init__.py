"""What each command does, without arguments and without printing: takes plain values, returns results."""
