"""The databases behind an application's object mapper: nothing that a page writes stays, and which tables are absent.

The mapper is Flask-SQLAlchemy 3, which gives the engines of an application by their keys.
"""

import inspect
import os
import re
import shutil


def mapper_of(app):
    """Return the application's mapper; None for one without, or with a mapper of another kind."""
    found = app.extensions.get("sqlalchemy")
    return found if hasattr(type(found), "engines") and hasattr(found, "Model") else None


def keep_apart(app, scratch):
    """Put copies in the place of SQLite files, and take back what pages write to other databases.

    Returns the file of the first database as it stands in the configuration; empty for another database.
    """
    mapper = mapper_of(app)
    if mapper is None:
        return ""
    file = ""
    with app.app_context():
        for number, (key, engine) in enumerate(list(mapper.engines.items())):
            path = engine.url.database
            if engine.dialect.name != "sqlite" or (path and not os.path.isdir(os.path.dirname(path) or ".")):
                engine.dialect.do_commit = engine.dialect.do_rollback
                continue
            if not path or ":memory:" in path or path.startswith("file:"):
                continue
            if key is None:
                file = os.path.abspath(path)
            try:
                mapper.engines[key] = _copied(engine, path, os.path.join(scratch, f"mapped-{number}.sqlite3"))
            except OSError:  # it cannot be read, or there is no room for it
                engine.dialect.do_commit = engine.dialect.do_rollback
    return file


def _copied(engine, path, target):
    from sqlalchemy import create_engine

    if os.path.isfile(path):
        for end in ("", "-wal"):
            if os.path.isfile(path + end):
                shutil.copyfile(path + end, target + end)
    return create_engine(engine.url.set(database=target))


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
