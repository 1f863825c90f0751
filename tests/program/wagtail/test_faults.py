"""The faults of this host: see tests/faults.py."""

from ... import faults


class OnTheHost(faults.Faults):
    kit = "wagtail"
    served = 5  # as on Django, and the front page in the tree
    at_least = 34
    elsewhere = {"served.desk-breaks": "a host written by hand, in test_desks.py"}

    @property
    def mendable(self) -> set[str]:
        return {"placed.page-absent"}
