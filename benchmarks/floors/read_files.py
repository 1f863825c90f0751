"""Reads every file below a folder once."""

import os
import sys

for where, _, names in os.walk(sys.argv[1]):
    for name in names:
        with open(os.path.join(where, name), "rb") as handle:
            handle.read()
