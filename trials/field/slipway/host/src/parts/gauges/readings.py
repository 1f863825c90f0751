def now():
    """Return the readings of the yard's gauges, in metres."""
    return {"quay": 2.4, "slip": 1.9}
