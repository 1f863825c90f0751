"""The faults of this host: see tests/faults.py."""

from ... import faults


class OnTheHost(faults.Faults):
    kit = "flask"
    at_least = 18
    elsewhere = {"registered.unsure": "what files cannot tell, in test_field.py"}
