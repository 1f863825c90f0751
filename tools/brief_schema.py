"""Makes the JSON Schema of a brief from the kinds of parts: ``python -m tools.brief_schema``."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from swift_sprout.core.brief import FORMAT, MODULE_SHAPE
from swift_sprout.core.parts.kinds import KINDS, kind_named

TARGET = Path(__file__).parent.parent / "src/swift_sprout/reports/schemas/brief.json"
_TEXT: dict[str, Any] = {"type": "string"}
_SORTS: dict[str, dict[str, Any]] = {
    "text": _TEXT,
    "list": {"type": "array", "items": _TEXT},
    "number": {"type": "integer"},
    "yes/no": {"type": "boolean"},
    "table": {"type": "object", "additionalProperties": _TEXT},
    "rows": {
        "type": "array",
        "items": {"type": "object", "additionalProperties": {"type": ["string", "integer", "number", "boolean"]}},
    },
}


def schema() -> str:
    """Return the schema as text."""
    parts = {
        kind.name: {"type": "array", "items": _table(kind.shape, list(kind.needed)), "description": kind.example}
        for kind in map(kind_named, KINDS)
    }
    whole = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "swift-sprout brief, version 1",
        "type": "object",
        "properties": {"format": {"const": FORMAT}, "module": _table(MODULE_SHAPE, ["name"]), **parts},
        "required": ["module"],
        "additionalProperties": False,
    }
    return json.dumps(whole, indent=1) + "\n"


def _table(shape: dict[str, str], needed: list[str]) -> dict[str, Any]:
    return {
        "type": "object",
        "properties": {key: _SORTS[sort] for key, sort in shape.items()},
        "required": needed,
        "additionalProperties": False,
    }


if __name__ == "__main__":
    TARGET.write_text(schema(), "utf-8")
