"""The faults of this host: see tests/faults.py."""

from ...faults import Faults


class OnTheHost(Faults):
    kit = "oscar"
    at_least = 49

    @property
    def mendable(self) -> set[str]:
        return {"installed.shop-row-absent", "installed.attribute-absent"}
