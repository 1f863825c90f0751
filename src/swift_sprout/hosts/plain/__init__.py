"""Hosts that no kit knows: a folder of sibling modules, of whatever language; what can be told of names alone."""
