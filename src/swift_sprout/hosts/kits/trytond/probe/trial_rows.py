"""A row of each model that modules bring: made with its defaults, read, searched by its name, changed and deleted.

Works on a copy of the database, in a transaction that is rolled back; nobody outside is reached meanwhile. What only
says that such a row may not be (a rule of the module, a value that is missing) is for whoever reads the answers to
tell from what is broken.
"""

import datetime
import decimal
import itertools

from sprout_inside import nobody_outside, told

#  a value for a field that must have one, by the host's name of its type (its 8.2)
VALUES = {
    "text": "x",
    "fulltext": "x",
    "float": 1.0,
    "numeric": decimal.Decimal(1),
    "boolean": True,
    "date": datetime.date(2031, 4, 1),
    "datetime": datetime.datetime(2031, 4, 1, 6),
    "timestamp": datetime.datetime(2031, 4, 1, 6),
    "time": datetime.time(6),
    "timedelta": datetime.timedelta(hours=1),
}
NUMBERS = itertools.count(1)
#  what the host calls when a row is changed, and when it is deleted (its 8.2)
WRITTEN = {
    "write",
    "validate",
    "validate_fields",
    "check_modification",
    "preprocess_values",
    "compute_fields",
    "on_write",
}
DELETED = {"delete", "check_modification", "on_delete"}
DEEPEST = 2  # rows that a row needs, and those that they need


class CannotBeMade(Exception):
    """A field must have a value of which nothing is known."""


def try_rows(pool, models, root):
    """Return what fails: the module, the model, what was done, and the error."""
    found = []
    with nobody_outside():
        for module, model in models:
            if not callable(getattr(model, "table_query", None)):
                found += [
                    {
                        "module": module,
                        "model": model.__name__,
                        "doing": doing,
                        "field": field,
                        "error": told(error, root),
                    }
                    for doing, field, error in failures_of(pool, model)
                ]
    return found


def fields_that_fail(model, ids, names):
    """Yield the fields that cannot be read of some rows, with the error: one by one only where not all can be."""
    try:
        model.read(ids, names)
    except Exception as error:
        if len(names) == 1:
            yield names[0], error
        else:
            for name in names:
                yield from fields_that_fail(model, ids, [name])


def failures_of(pool, model):
    """Yield what fails with a row of a model: what was done, the field if it was about one, and the error."""
    own = methods_of_modules(model)
    try:
        if "search_rec_name" in own:
            model.search([("rec_name", "ilike", "x%")], limit=1)
    except Exception as error:
        yield "searching by name", "", error
    try:
        (row,) = model.create([values_of(pool, model)])
    except CannotBeMade:
        return
    except Exception as error:
        yield "creating", "", error
        return
    yield from (("reading", name, error) for name, error in fields_that_fail(model, [row.id], list(model._fields)))
    text = next((name for name, field in model._fields.items() if field._type == "char" and not field.readonly), "")
    try:
        if own & WRITTEN and text and not hasattr(model._fields[text], "getter"):
            model.write([row], {text: "y"})
    except Exception as error:
        yield "changing", "", error
    try:
        if own & DELETED:
            model.delete([row])
    except Exception as error:
        yield "deleting", "", error


def methods_of_modules(model):
    """Return the names that classes of modules define for a model: what else it does is the host's own affair."""
    places = [(one, f"{one.__module__}.") for one in model.__mro__]
    brought = [one for one, place in places if place.startswith("trytond.modules.") or not place.startswith("trytond.")]
    return {name for one in brought if one is not object for name in vars(one)}


def methods_of(model, module):
    """Return the names that the classes of one module define for a model."""
    package = f"{module}."
    places = [(one, f"{one.__module__}.".removeprefix("trytond.modules.")) for one in model.__mro__]
    return {name for one, place in places if place.startswith(package) for name in vars(one)}


def a_row(pool, model):
    """Return a new row of a model in a list; an empty one where none can be made."""
    try:
        with nobody_outside():
            return model.create([values_of(pool, model)])
    except Exception:
        return []


def a_full_row(pool, model):
    """Return a new row of a model, with one of each sort that hangs on it; None where none can be made."""
    rows = a_row(pool, model)
    if not rows:
        return None
    for field in model._fields.values():
        if field._type == "one2many" and not hasattr(field, "getter") and field.field:
            try:
                target = field.get_target()
                target.create([{**values_of(pool, target), field.field: rows[0].id}])
            except Exception:
                continue  # told of its own model
    return model(rows[0].id)


def values_of(pool, model, depth=0):
    """Return what a row of a model is made of: its defaults, and a value for whatever must have one."""
    names = [name for name, field in model._fields.items() if not hasattr(field, "getter")]
    values = {name: value for name, value in model.default_get(names, with_rec_name=False).items() if "." not in name}
    return with_required(pool, model, values, depth)


def with_required(pool, model, values, depth=0):
    """Return values with one for each field that must have one: always, or as long as the others are what they are."""
    values = dict(values)
    names = [name for name, field in model._fields.items() if not hasattr(field, "getter") and name != "id"]
    always = [name for name in names if model._fields[name].required]
    for name in (*always, *(name for name in names if name not in always)):
        field = model._fields[name]
        if values.get(name) is None and (field.required or holds(field.states.get("required"), values)):
            values[name] = value_of(pool, model, field, depth, values)
    return values


def holds(condition, values):
    """True where a condition of a form holds for what stands in it; False for one that cannot be worked out."""
    from trytond.pyson import PYSONDecoder, PYSONEncoder

    if condition is None or isinstance(condition, bool):
        return bool(condition)
    try:
        return bool(PYSONDecoder({"context": {}, **values}).decode(PYSONEncoder().encode(condition)))
    except Exception:
        return False


def shown_values(row):
    """Return what stands in a row, as conditions of forms see it."""
    values = {"id": row.id}
    for name, field in row._fields.items():
        if not hasattr(field, "getter"):
            value = getattr(row, name)
            values[name] = [one.id for one in value] if isinstance(value, tuple) else getattr(value, "id", value)
    return values


def fitting(pool, target, domain, values, depth):
    """Return the id of a row that a relation may point at: one that is there, else a new one; None for none."""
    from trytond.pyson import PYSONDecoder, PYSONEncoder

    try:
        wanted = PYSONDecoder({"context": {}, **values}).decode(PYSONEncoder().encode(domain or []))
        there = target.search(wanted, limit=1)
    except Exception:
        wanted, there = [], target.search([], limit=1)
    if there:
        return there[0].id
    if depth < DEEPEST and hasattr(target, "create"):
        said = {one[0]: one[2] for one in wanted if isinstance(one, (list, tuple)) and len(one) == 3 and one[1] == "="}
        said = {name: value for name, value in said.items() if name in target._fields}
        (row,) = target.create([{**values_of(pool, target, depth + 1), **said}])
        return row.id
    return None


def value_of(pool, model, field, depth, values=()):
    """Return a value for a field; raises CannotBeMade.

    values -- what the other fields of the row have
    """
    if field._type in ("char", "integer", "biginteger"):  # of which no two may be alike
        number = next(NUMBERS)
        return f"x{number}" if field._type == "char" else number
    if field._type in VALUES:
        return VALUES[field._type]
    if field._type == "selection":
        offered = field.selection
        if isinstance(offered, str) and not field.selection_change_with:
            offered = getattr(model, offered)()
        first = next((value for value, _ in offered if value), None) if isinstance(offered, (list, tuple)) else None
        if first:
            return first
    if field._type == "many2one" and hasattr(field.get_target(), "search"):
        found = fitting(pool, field.get_target(), field.domain, dict(values), depth)
        if found is not None:
            return found
    raise CannotBeMade(field._type)


def defaults_not_offered(models):
    """Tell the defaults of selections that are not among what is offered."""
    found = []
    for module, model in models:
        for name, field in model._fields.items():
            if field._type != "selection" or not isinstance(field.selection, (list, tuple)):
                continue
            try:
                value = model.default_get([name], with_rec_name=False).get(name)
            except Exception:  # told by the host's own check
                continue
            offered = [one for one, _ in field.selection]
            if value is not None and value not in offered:
                known = [str(one) for one in offered if one]
                found.append(
                    {"module": module, "model": model.__name__, "field": name, "value": str(value), "known": known}
                )
    return found


def constraints_of_nothing(models):
    """Tell the constraints and indexes of models that are about columns which are no fields of theirs."""
    found = []
    for module, model in models:
        for index in getattr(model, "_sql_indexes", ()):
            for expression, _ in getattr(index, "expressions", ()):
                said = getattr(expression, "name", "")
                if isinstance(said, str) and said and said not in model._fields:
                    entry = {"module": module, "model": model.__name__, "constraint": ""}
                    found.append({**entry, "name": said, "known": sorted(model._fields)})
        for name, constraint, _ in getattr(model, "_sql_constraints", ()):
            for column in getattr(constraint, "columns", ()):
                said = getattr(column, "name", "")
                if isinstance(said, str) and said and said not in model._fields:
                    known = sorted(model._fields)
                    entry = {"module": module, "model": model.__name__, "constraint": name}
                    found.append({**entry, "name": said, "known": known})
    return found
