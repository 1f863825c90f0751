"""Tables of django-tables2 that the modules declare: columns whose accessor leads to nothing of the records."""

import inspect
import sys

from sprout_inside import one_letter_off


def columns_of_nothing(modules):
    """Return the columns that show what the model of their table does not have: they are empty in every row."""
    tables = sys.modules.get("django_tables2")
    if tables is None:
        return []
    inside = tuple(f"{name}." for name in modules)
    found = []
    for table in subclasses(tables.Table):
        model = getattr(getattr(table, "_meta", None), "model", None)
        if model is None or not f"{table.__module__}.".startswith(inside):
            continue
        for name, column in table.base_columns.items():
            accessor = str(column.accessor or name)
            missing = missing_part(model, accessor) if column.empty_values != () else None
            if missing is not None:
                held, part = missing
                near = [one for one in attributes_of(held) if one_letter_off(part, one)]
                told = {"table": table.__name__, "module": table.__module__, "file": inspect.getsourcefile(table)}
                if near:  # another name may be one that a query adds to its rows
                    found.append({**told, "name": part, "record": held.__name__, "near": near[:1]})
    return found


def subclasses(kind):
    for one in kind.__subclasses__():
        yield one
        yield from subclasses(one)


def missing_part(model, accessor):
    """Return the model and the part of an accessor that it does not have; None where it leads to something."""
    for part in accessor.replace(".", "__").split("__"):
        if part not in attributes_of(model):
            return model, part
        field = next((one for one in model._meta.get_fields() if one.name == part), None)
        related = getattr(field, "related_model", None)
        if not isinstance(related, type):
            return None  # a value, of which nothing is known
        model = related
    return None


def attributes_of(model):
    return {one.name for one in model._meta.get_fields()} | set(dir(model))
