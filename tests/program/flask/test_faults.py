"""The faults of this host: see tests/faults.py."""

from ... import faults


class OnTheHost(faults.Faults):
    kit = "flask"
    at_least = 18
    elsewhere = {
        "served.form-without-token": "sites with forms of a library, in test_mapped.py",
        "registered.unsure": "what files cannot tell, in test_field.py",
        "registered.blueprint-left-out": "a host written by hand, in test_field.py",
        "routed.class-as-view": "a host written by hand, in test_field.py",
        "routed.method-misspelt": "a host written by hand, in test_field.py",
        "served.validator-unused": "a host written by hand, in test_field.py",
        "enabled.records-broken": "sites with an object mapper, in test_mapped.py",
        "installed.database-down": "sites with an object mapper, in test_mapped.py",
        "installed.mapped-column-absent": "sites with an object mapper, in test_mapped.py",
        "installed.mapped-table-absent": "sites with an object mapper, in test_mapped.py",
    }
