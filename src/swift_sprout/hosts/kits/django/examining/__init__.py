"""From facts to findings: evidence per rung, and rules that name causes, one file per rung."""
