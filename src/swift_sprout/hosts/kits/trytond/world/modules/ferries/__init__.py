"""Ferries: the timetable of the quay ferry."""
