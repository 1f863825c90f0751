"""Runs the tests that need no host, in under 90 seconds: ``python -m tests.quick``."""

from __future__ import annotations

import sys
import unittest
from pathlib import Path

HERE = Path(__file__).parent
FOLDERS = ("core", "edits", "disk", "caching", "reports", "actions")
FURTHER = ("tests.program.test_kit_contract.OwnKits", "tests.program.test_kit_contract.BuildsOn")


def main() -> int:
    """Run them; returns 1 when a test failed, or when a folder holds none."""
    loader = unittest.TestLoader()
    suites = [loader.discover(str(HERE / folder), top_level_dir=str(HERE.parent)) for folder in FOLDERS]
    empty = [folder for folder, suite in zip(FOLDERS, suites, strict=True) if not suite.countTestCases()]
    result = unittest.TextTestRunner().run(unittest.TestSuite([*suites, loader.loadTestsFromNames(FURTHER)]))
    for folder in empty:
        print(f"tests/{folder} holds no tests", file=sys.stderr)
    return 0 if result.wasSuccessful() and not empty else 1


if __name__ == "__main__":
    sys.exit(main())
