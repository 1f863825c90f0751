"""From a brief to the files of a module."""
