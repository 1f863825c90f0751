"""The import contract of kits: each knows nothing of the others, but for the one that its ``kit.toml`` builds on."""

from __future__ import annotations

import tomllib
from pathlib import Path

from grimp import ImportGraph
from importlinter import Contract, ContractCheck, output

KITS = "swift_sprout.hosts.kits."
FOLDER = Path(__file__).parent.parent / "src/swift_sprout/hosts/kits"


class KitsApart(Contract):
    """No module of a kit imports one of another kit that it does not build on."""

    def check(self, graph: ImportGraph, verbose: bool) -> ContractCheck:
        """Look at every import between kits."""
        wrong = []
        for path in FOLDER.glob("*/kit.toml"):
            kit = path.parent.name
            allowed = {kit, tomllib.loads(path.read_text("utf-8")).get("builds_on")}
            for module in {KITS + kit, *graph.find_descendants(KITS + kit)}:
                for imported in graph.find_modules_directly_imported_by(module):
                    if imported.startswith(KITS) and imported.removeprefix(KITS).partition(".")[0] not in allowed:
                        wrong.append(f"{module} imports {imported}")
        return ContractCheck(kept=not wrong, metadata={"wrong": sorted(wrong)})

    def render_broken_contract(self, check: ContractCheck) -> None:
        """Print what is wrong."""
        for sentence in check.metadata["wrong"]:
            output.print_error(sentence)
