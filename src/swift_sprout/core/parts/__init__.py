"""The parts that a module can carry, one file for each family of kinds; a file is imported when its kind is met."""
