"""Sample data as a JSON file, the same on all hosts."""

from __future__ import annotations

import json

from ...core.brief import Brief
from ...core.parts.contents import sample_key


def sample_data(brief: Brief) -> str:
    """Return the sample data as JSON: for each record, by which field a row is known, and the rows.

    Records stand after those that they point at, so that a target is there before it is named.
    """
    entries: list[dict[str, object]] = []
    for sample in brief.samples:
        if brief.record(sample.record) is None:
            continue  # rows of something that is no record, such as products
        record = brief.record(sample.record)
        assert record is not None
        relations = {}
        for field in record.fields:
            target = brief.record(field.target) if field.type == "one" else None
            if target is not None:
                other = next((one for one in brief.samples if brief.record(one.record) is target), None)
                by = sample_key(other, target) if other else target.title_field.name
                relations[field.name] = {"record": target.name.camel, "by": by}
        kinds = {field.name: field.type for field in record.fields}
        rows = [
            {name: (value in ("yes", "true") if kinds[name] == "yes/no" else value) for name, value in row}
            for row in sample.rows
        ]
        entries.append(
            {"record": record.name.camel, "by": sample_key(sample, record), "relations": relations, "rows": rows}
        )
    return json.dumps(_targets_first(entries), indent=2, ensure_ascii=False) + "\n"


def _targets_first(entries: list[dict[str, object]]) -> list[dict[str, object]]:
    names = {entry["record"] for entry in entries}
    done: list[dict[str, object]] = []
    waiting = list(entries)
    while waiting:
        placed = {entry["record"] for entry in done}
        ready = next((one for one in waiting if _pointed(one) & names - {one["record"]} <= placed), waiting[0])
        waiting.remove(ready)
        done.append(ready)
    return done


def _pointed(entry: dict[str, object]) -> set[object]:
    relations = entry["relations"]
    assert isinstance(relations, dict)
    return {one["record"] for one in relations.values()}
