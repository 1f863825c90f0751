"""The faults of this host: see tests/faults.py."""

from ...faults import Faults


class OnTheHost(Faults):
    kit = "flask"
    at_least = 18
