"""The databases behind an application's object mapper: where they are, and what they lack.

The mapper is Flask-SQLAlchemy 3, which gives the engines of an application by their keys.
"""

import inspect
import os
import re


def mapper_of(app):
    """Return the application's mapper; None for one without, or with a mapper of another kind."""
    found = app.extensions.get("sqlalchemy")
    return found if hasattr(type(found), "engines") and hasattr(found, "Model") else None


def file_of(app):
    """Return the SQLite file behind the application's mapper; empty for another database, or none."""
    mapper = mapper_of(app)
    if mapper is None:
        return ""
    with app.app_context():
        engine = mapper.engines.get(None)
        path = engine.url.database if engine is not None and engine.dialect.name == "sqlite" else ""
    return os.path.abspath(path) if path and ":memory:" not in path and not path.startswith("file:") else ""


def put_together(app, root):
    """Put the records together as the first query would; tells what is wrong with them, or nothing."""
    mapper = mapper_of(app)
    if mapper is None:
        return None
    from sqlalchemy.orm import configure_mappers

    try:
        configure_mappers()
    except Exception as error:
        text = str(error)
        tables = re.findall(r"Mapper\[\w+\((\w+)\)\]", text)
        classes = [one.class_ for one in mapper.Model.registry.mappers if one.local_table.name in tables]
        names = re.findall(r"['\"](\w+)['\"]", text)
        places = [place for one in classes for place in [_line_naming(one, names)] if place["file"].startswith(root)]
        place = places[0] if places else {"file": "", "line": 0}
        return {"reason": f"{type(error).__name__}: {' '.join(text.split())[:300]}", **place}
    return None


def _line_naming(model, names):
    """Return the line of a record's class that says one of some names first, else where the class begins."""
    place = _place_of(model)
    if place["file"]:
        for number, line in enumerate(inspect.getsourcelines(model)[0]):
            if "relationship" in line and any(re.search(rf"\b{name}\b", line) for name in names):
                return {**place, "line": place["line"] + number}
    return place


def mapped(app, package_of):
    """Tell of each record of the site's own code what its database lacks: ``table``, or columns.

    Databases in memory are left out: whoever starts the application makes their tables.
    """
    mapper = mapper_of(app)
    if mapper is None:
        return []
    from sqlalchemy import inspect as inspected

    found = []
    with app.app_context():
        seen = {}
        for one in mapper.Model.registry.mappers:
            table = one.local_table
            key = table.metadata.info.get("bind_key")
            engine = mapper.engines.get(key)
            if engine is None or (engine.dialect.name == "sqlite" and engine.url.database in (None, "", ":memory:")):
                continue
            inspector = seen.setdefault(key, inspected(engine))
            there = inspector.has_table(table.name, schema=table.schema)
            known = (
                {column["name"] for column in inspector.get_columns(table.name, schema=table.schema)}
                if there
                else set()
            )
            found.append(
                {
                    "module": package_of(one.class_.__module__),
                    "record": one.class_.__name__,
                    "table": table.name,
                    "there": there,
                    "absent": [column.name for column in table.columns if column.name not in known] if there else [],
                    **_place_of(one.class_),
                }
            )
    return found


def _place_of(model):
    try:
        return {"file": inspect.getsourcefile(model), "line": inspect.getsourcelines(model)[1]}
    except (OSError, TypeError):
        return {"file": "", "line": 0}
