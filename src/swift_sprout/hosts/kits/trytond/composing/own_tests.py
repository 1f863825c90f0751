"""The module's own tests."""

from __future__ import annotations

from html import escape

from .....core.brief import Brief
from ....shared.rendering import python_text
from .shared import MODES, Values, lines, rights_of


def own_test_values(brief: Brief, values: Values) -> Values:
    """Return the values that only the module's tests take."""
    pages = _pages(brief, values)
    cases = (["RouteTestCase"] if values["has_routes"] else []) + ["ModuleTestCase"]
    rights = [
        {
            "group_snake": key,
            "snake": record.name.snake,
            "model": f"{brief.name.snake}.{record.name.snake}",
            "group_id": f"group_{key}",
            "modes": _modes(held, record.name.title),
        }
        for key, held in rights_of(brief).items()
        for record in brief.records
    ]
    kept = [record for record in values["records"] if not any("[0].id" in one["sample"] for one in record["sampled"])]
    return {
        "test_base": ", ".join(f"test_tryton.{one}" for one in cases),
        "tested_pages": pages,
        "right_tests": rights,
        "tested_records": kept,
        "setting_names": [{"setting_name": field["name"]} for field in values["settings"]],
        "test_imports": lines(_imports(values, bool(kept))),
        "sample_imports": lines(_sample_imports(values["records"])),
    }


def _modes(held: frozenset[tuple[str, str]], title: str) -> str:
    modes = {MODES[verb] for what, verb in held if what == title}
    return python_text(modes) if modes else "set()"


def _pages(brief: Brief, values: Values) -> list[Values]:
    found = []
    if values["front_page"]:
        front = {"page_test": "front_page", "page_route": "front_page", "page_values": "", "page_open": True}
        found.append({**front, "page_heading": _heading(brief.name.title)})
    for page, said in zip(values["pages"], brief.pages, strict=True):
        if said.parameters and not page["is_plain"]:
            continue
        route = page["plain_route"] if page["is_plain"] else page["list_route"] if page["has_list"] else ""
        route = route or (page["form_route"] if page["has_form"] else "")
        if not route or "get" not in said.methods:
            continue
        given = "".join(f", {one.name}={_EXAMPLES[one.type]}" for one in said.parameters)
        found.append(
            {
                "page_test": route,
                "page_route": route,
                "page_values": given,
                "page_open": said.access == "anyone",
                "page_heading": _heading(said.title),
            }
        )
    return found


def _heading(title: str) -> str:
    return f"<h1>{escape(title, quote=False)}</h1>"


_EXAMPLES = {"text": '"sample"', "slug": '"sample"', "integer": "1", "uuid": '"00000000-0000-4000-8000-000000000000"'}


def _imports(values: Values, kept: bool) -> list[str]:
    routes = values["has_routes"]
    pool = kept or routes or values["has_groups"] or values["jobs"] or values["has_settings"]
    found = ["import urllib.parse", ""] if routes else []
    found += ["from trytond.pool import Pool"] if pool else []
    found += ["from trytond.tests import test_tryton"]
    found += ["from trytond.transaction import Transaction"] if routes or values["has_groups"] else []
    own = ["from .. import samples as sample_data"] if values["has_samples"] else []
    own += ["from .. import services"] if values["services"] else []
    own += ["from . import samples"] if kept else []
    found += ["", *own] if own else []
    return found + (["", 'MODES = ("read", "write", "create", "delete")'] if values["has_groups"] else [])


def _sample_imports(records: list[Values]) -> list[str]:
    spelled = " ".join(field["sample"] for record in records for field in record["sampled"])
    found = ["import datetime"] if "datetime." in spelled else []
    found += ["import uuid"] if "uuid." in spelled else []
    found += ["from decimal import Decimal"] if "Decimal(" in spelled else []
    return [*found, *([""] if found else []), "from trytond.pool import Pool"]
