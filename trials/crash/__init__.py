"""What the program does when it is killed, or refused by the disk, in the middle of its work: ``make crash``."""
