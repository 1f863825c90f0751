"""``python -m trials.field [STYLE …]`` prints what checks say of every case."""

import sys

from . import main

sys.exit(main(sys.argv[1:]))
