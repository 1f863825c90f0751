"""The WordPress kit: modules are plugins in PHP."""
