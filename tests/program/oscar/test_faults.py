"""The faults of this host: see tests/faults.py."""

from ... import faults


class OnTheHost(faults.Faults):
    kit = "oscar"
    at_least = 49

    @property
    def mendable(self) -> set[str]:
        return {"installed.shop-row-absent", "installed.attribute-absent"}
