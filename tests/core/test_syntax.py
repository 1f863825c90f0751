"""Walking through syntax trees finds what the standard library finds."""

import ast
import unittest
from pathlib import Path

from swift_sprout.core.syntax import nodes_below

SOURCE = Path(__file__).resolve().parents[2] / "src" / "swift_sprout"


class NodesBelow(unittest.TestCase):
    def test_all_are_found_in_the_same_order_but_for_contexts(self):
        for path in sorted((SOURCE / "hosts/kits/django").rglob("*.py")):
            tree = ast.parse(path.read_text("utf-8"))
            wanted = [node for node in ast.walk(tree) if not isinstance(node, ast.expr_context)]
            self.assertEqual(wanted, nodes_below(tree), path)


if __name__ == "__main__":
    unittest.main()
