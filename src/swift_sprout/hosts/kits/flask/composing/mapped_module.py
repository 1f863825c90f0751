"""A module with mapped records: what its views, commands, forms and tests take, beside what those of any module do."""

from __future__ import annotations

from .....core.brief import Brief
from ....contract.kitdata import KitData
from .forms import form_imports, form_values
from .mapped import MapperNames, Values, model_imports, types_needed


def mapped_module(
    data: KitData,
    brief: Brief,
    mapper: MapperNames,
    records: dict[str, Values],
    pages: list[Values],
    endpoints: list[Values],
    commands: list[Values],
) -> Values:
    """Return what the templates take of a module with mapped records, beside what they take of any."""
    forms = {
        page["record"]: form_values(data, brief, record, mapper)
        for page in pages
        if page["has_form"] and (record := brief.record(page["record"])) is not None
    }
    form_pages = [
        page | forms[page["record"]] | {"leads_to": _leads_to(brief, page, pages)} for page in pages if page["has_form"]
    ]
    listed = [page for page in pages if page["has_list"]]
    asked = [*listed, *endpoints, *(page for page in pages if page["has_one"] or page["has_form"])]
    return {
        "db": mapper.name,
        "makes_tables": not mapper.revisions,
        "own_tables": ", ".join(f"{name}.__table__" for name in records),
        "record_names": ", ".join(sorted(records)),
        "standard_imports": _lines(_standard(data, brief)),
        "model_imports": _lines(model_imports(data, brief, mapper)),
        "view_imports": _lines(_view_imports(mapper, pages, listed, form_pages, asked)),
        "form_imports": _lines(form_imports(mapper, forms)),
        "forms": [{"record": name, **values} for name, values in forms.items()],
        "has_forms": bool(forms),
        "form_pages": form_pages,
        "command_imports": _lines(_command_imports(mapper, commands, list(records))),
        "tested_lists": [
            {**page, "called": page["rules"][0]["rule"]}
            for page in listed
            if page["shows_title"] and "<" not in page["rules"][0]["rule"]
        ],
        "tested_forms": [
            {**page, "called": page["rules"][0]["rule"]} for page in form_pages if "<" not in page["rules"][0]["rule"]
        ],
    }


def _standard(data: KitData, brief: Brief) -> list[str]:
    """Return the imports of the standard library of the module's tests."""
    types = types_needed(data, brief)
    plain = [*(one for one in types if one.startswith("import")), "import unittest"]
    return [*plain, *(one for one in types if one.startswith("from")), "from unittest.mock import patch"]


def _lines(texts: list[str]) -> list[Values]:
    return [{"line": text} for text in texts]


def _leads_to(brief: Brief, page: Values, pages: list[Values]) -> str:
    """Return the endpoint that a kept form leads to: the list of the record, else the form again."""
    lists = (one["list_view"] for one in pages if one["has_list"] and one["record"] == page["record"])
    return f"{brief.name.snake}.{next(lists, page['form_view'])}"


def _view_imports(
    mapper: MapperNames, pages: list[Values], listed: list[Values], forms: list[Values], asked: list[Values]
) -> list[str]:
    names = ["redirect"] if forms else []
    names += ["render_template"] if pages else []
    names += ["request"] if any(page["posts"] and page["is_plain"] for page in pages) else []
    names += ["url_for"] if forms else []
    found = [f"from flask import {', '.join(names)}"] if names else []
    found += ["from sqlalchemy.orm import joinedload"] if any(page["loads"] for page in listed) else []
    found += ["", f"from {mapper.module} import {mapper.name}"] if asked else []
    used = sorted({one["record"] for one in asked})
    own = ["from . import blueprint"]
    own += [f"from .forms import {', '.join(sorted({one['record'] + 'Form' for one in forms}))}"] if forms else []
    own += [f"from .models import {', '.join(used)}"] if used else []
    return [*found, *([""] if found else []), *own]


def _command_imports(mapper: MapperNames, commands: list[Values], records: list[str]) -> list[str]:
    used = sorted({one["record"] for one in commands if one["lists"]} if mapper.revisions else set(records))
    if not used:
        return ["from . import blueprint"]
    own = ["from . import blueprint", f"from .models import {', '.join(used)}"]
    return [f"from {mapper.module} import {mapper.name}", "", *own]
