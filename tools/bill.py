"""Writes the bill of materials of a release, in CycloneDX 1.6 (ECMA-424): ``python tools/bill.py FILE``.

It lists the program and every package that it runs with, with version and hashes as tools/locked.txt has them.
"""

from __future__ import annotations

import json
import re
import sys
import tomllib
import uuid
from pathlib import Path
from typing import Any

REPOSITORY = Path(__file__).parent.parent
_PINNED = re.compile(r"^([\w.-]+)==(\S+) (.*?)(  # runs)?$")


def locked() -> list[tuple[str, str, list[str], bool]]:
    """Return the packages of tools/locked.txt: name, version, hashes, and whether the program runs with it."""
    text = (REPOSITORY / "tools/locked.txt").read_text("utf-8").replace(" \\\n    ", " ")
    found = [_PINNED.match(line) for line in text.splitlines() if line and not line.startswith("#")]
    return [
        (one.group(1), one.group(2), re.findall(r"sha256:(\w+)", one.group(3)), bool(one.group(4)))
        for one in found
        if one is not None
    ]


def bill() -> dict[str, Any]:
    """Return the document; the same for the same lock and version."""
    project = tomllib.loads((REPOSITORY / "pyproject.toml").read_text("utf-8"))["project"]
    components = [
        {
            "type": "library",
            "bom-ref": f"pkg:pypi/{name}@{version}",
            "name": name,
            "version": version,
            "purl": f"pkg:pypi/{name}@{version}",
            "hashes": [{"alg": "SHA-256", "content": one} for one in hashes],
        }
        for name, version, hashes, runs in locked()
        if runs
    ]
    own = f"pkg:pypi/{project['name']}@{project['version']}"
    name = own + "".join(one["bom-ref"] for one in components)  # type: ignore[misc]
    return {
        "bomFormat": "CycloneDX",
        "specVersion": "1.6",
        "serialNumber": f"urn:uuid:{uuid.uuid5(uuid.NAMESPACE_URL, name)}",
        "version": 1,
        "metadata": {
            "component": {
                "type": "application",
                "bom-ref": own,
                "name": project["name"],
                "version": project["version"],
                "purl": own,
                "licenses": [{"license": {"id": "Apache-2.0"}}],
            }
        },
        "components": components,
        "dependencies": [{"ref": own, "dependsOn": [one["bom-ref"] for one in components]}],
    }


if __name__ == "__main__":
    Path(sys.argv[1]).write_text(json.dumps(bill(), indent=1) + "\n", "utf-8")
