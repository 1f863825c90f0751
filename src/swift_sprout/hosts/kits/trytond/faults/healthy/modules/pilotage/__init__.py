"""Pilotage: who brings ships in."""
