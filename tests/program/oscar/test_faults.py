"""The faults of this host: see tests/faults.py."""

from ... import faults


class OnTheHost(faults.Faults):
    kit = "oscar"
    at_least = 49
    elsewhere = {
        "served.buying-fails": "a host written by hand, in test_field.py",
        "served.buying-unsure": "a host written by hand, in test_field.py",
        "placed.status-unknown": "a host written by hand, in test_forked.py",
        "described.address-field-unknown": "a host written by hand, in test_forked.py",
        "routed.override-lacks-addresses": "a host written by hand, in test_field.py",
    }

    @property
    def mendable(self) -> set[str]:
        return {"installed.shop-row-absent", "installed.attribute-absent"}
