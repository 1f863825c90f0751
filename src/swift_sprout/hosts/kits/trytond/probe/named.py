"""What models, windows and rules name that nothing has: fields in domains, values of selections, schemas, methods.

Works on a copy of the database, in a transaction that is rolled back.
"""

import json

#  operators of the clauses of domains (the host's 8.2)
OPERATORS = {
    "=", "!=", "<", "<=", ">", ">=", "in", "not in", "like", "not like", "ilike", "not ilike", "where", "not where",
    "child_of", "not child_of", "parent_of", "not parent_of",
}  # fmt: skip
RELATIONS = {"many2one", "one2many", "many2many", "one2one"}
#  fields whose domains are said in another way
OTHERWISE = {"reference", "dict", "multiselection"}


def told_of(pool, models, wizards, ids_of, data_models):
    """Return what is named and not there, by subject.

    models      -- pairs of a module and a model that it brings or adds to
    wizards     -- pairs of a module and the name of a wizard
    data_models -- the models of the records that data files bring
    """
    return {
        "domains": domains(models),
        "schemas": schemas(pool, models),
        "transitions": transitions(pool, wizards),
        "offered": [*offered_by_conditions(models), *offered_by_domains(pool, ids_of)],
        "fields": {model.__name__: sorted(model._fields) for _, model in models},
        "selections": selections(pool, data_models),
    }


def encoded(condition):
    """Return a condition or domain as clients get it, taken apart; None for what cannot be told so."""
    from trytond.pyson import PYSONEncoder

    try:
        return json.loads(PYSONEncoder().encode(condition))
    except Exception:
        return None


def parts_of(value):
    """Yield all lists and objects within a value, itself first."""
    waiting = [value]
    while waiting:
        one = waiting.pop()
        if isinstance(one, dict):
            yield one
            waiting += one.values()
        elif isinstance(one, list):
            yield one
            waiting += one


def clauses_in(domain):
    """Yield the clauses of a domain: the name, the operator and the value of each.

    What stands within the value of one, as behind ``where``, is about another model.
    """
    waiting = [domain]
    while waiting:
        one = waiting.pop()
        if isinstance(one, dict):
            waiting += [one[key] for key in ("t", "e") if key in one]  # what a condition leads to
        elif isinstance(one, list) and len(one) >= 3 and isinstance(one[0], str) and one[1] in list(OPERATORS):
            yield one[0], one[1], one[2]
        elif isinstance(one, list):
            waiting += one


def comparisons_in(condition):
    """Yield the fields that a condition compares, each with a text that it compares it with."""
    for one in parts_of(condition):
        if not isinstance(one, dict):
            continue
        if one.get("__class__") == "Equal":
            for field, value in ((one["s1"], one["s2"]), (one["s2"], one["s1"])):
                if is_field(field) and isinstance(value, str):
                    yield field["v"], value
        elif one.get("__class__") == "In" and is_field(one.get("k")) and isinstance(one.get("v"), list):
            yield from ((one["k"]["v"], value) for value in one["v"] if isinstance(value, str))


def is_field(value):
    return isinstance(value, dict) and value.get("__class__") == "Eval" and isinstance(value.get("v"), str)


def domains(models):
    """Tell the domains of fields that ask for what their model, or that which they point at, does not have."""
    found = []
    for module, model in models:
        for name, field in model._fields.items():
            if field._type in OTHERWISE:
                continue
            try:
                known = (field.get_target() if field._type in RELATIONS else model)._fields
            except Exception:  # told of the field itself
                continue
            for asked, _, _ in clauses_in(encoded(getattr(field, "domain", None) or [])):
                first = asked.partition(".")[0]
                if first not in known and first != name and not first.startswith("_"):  # a field may ask for itself
                    entry = {"module": module, "model": model.__name__, "field": name, "name": first}
                    found.append({**entry, "known": sorted(known)})
    return found


def schemas(pool, models):
    """Tell the dictionaries whose keys come from a model that is not there, or is made for something else."""
    from trytond.model import DictSchemaMixin

    there = dict(pool.iterobject())
    found = []
    for module, model in models:
        for name, field in model._fields.items():
            schema = getattr(field, "schema_model", None)
            if schema is None or (schema in there and issubclass(there[schema], DictSchemaMixin)):
                continue
            entry = {"module": module, "model": model.__name__, "field": name, "schema": schema}
            found.append({**entry, "there": schema in there, "known": sorted(there)})
    return found


def transitions(pool, wizards):
    """Tell the states of wizards that lead on without the method that says where to, and buttons to no state."""
    from trytond.wizard import StateAction, StateTransition, StateView

    found = []
    for module, name in wizards:
        wizard = pool.get(name, type="wizard")
        methods = sorted(method for method in dir(wizard) if method.startswith("transition_"))
        states = {*wizard.states, wizard.end_state}
        for state, one in wizard.states.items():
            entry = {"module": module, "wizard": name, "state": state}
            leads_on = isinstance(one, StateTransition) and not isinstance(one, StateAction)
            if leads_on and f"transition_{state}" not in methods:
                found.append({**entry, "button": "", "known": methods})
            for button in one.buttons if isinstance(one, StateView) else ():
                if button.state not in states:
                    found.append({**entry, "button": button.state, "known": sorted(states)})
    return found


def offered_of(model, name):
    """Return the values that a field offers; None where it is no selection, or they follow from something else."""
    field = model._fields.get(name)
    if field is None or field._type != "selection" or not isinstance(field.selection, (list, tuple)):
        return None
    return [str(value) for value, _ in field.selection if value is not None]


def offered_by_conditions(models):
    """Tell the values that conditions compare a selection with and that it does not offer."""
    found = []
    for module, model in models:
        conditions = [*getattr(model, "_buttons", {}).values()]
        for field in model._fields.values():
            conditions += [field.states, getattr(field, "domain", None)]
        if hasattr(model, "view_attributes"):
            conditions += [one[2] for one in model.view_attributes() if len(one) > 2]
        told = set()
        for name, value in (one for condition in conditions for one in comparisons_in(encoded(condition))):
            known = offered_of(model, name)
            if known is not None and value and value not in known and (name, value) not in told:
                told.add((name, value))
                entry = {"module": module, "model": model.__name__, "id": ""}
                found.append({**entry, "field": name, "value": value, "known": known})
    return found


def offered_by_domains(pool, ids_of):
    """Tell the values that windows, their tabs and rules look for and that the field does not offer."""
    found = []
    written = []
    for number, (module, fs_id) in ids_of("ir.action.act_window").items():
        action = pool.get("ir.action.act_window")(number)
        domains = [action.pyson_domain, action.pyson_search_value, *(tab.domain for tab in action.act_window_domains)]
        written.append((module, fs_id, action.res_model, domains))
    for number, (module, fs_id) in ids_of("ir.rule").items():
        rule = pool.get("ir.rule")(number)
        model = rule.rule_group.model
        written.append((module, fs_id, getattr(model, "model", model), [rule.domain]))
    there = dict(pool.iterobject())
    for module, fs_id, model, domains in written:
        for domain in domains:
            for name, _, value in clauses_in(json.loads(domain)) if domain and model in there else ():
                last, target = field_at(there[model], name)
                known = offered_of(target, last) if target is not None else None
                for one in value if isinstance(value, list) else [value]:
                    if known is not None and isinstance(one, str) and one and one not in known:
                        entry = {"module": module, "model": target.__name__, "id": fs_id}
                        found.append({**entry, "field": last, "value": one, "known": known})
    return found


def field_at(model, name):
    """Return the last name of a dotted one, and the model that it is a field of; None where that cannot be told."""
    first, dot, rest = name.partition(".")
    while dot:
        field = model._fields.get(first)
        if field is None or field._type not in RELATIONS:
            return first, None
        model = field.get_target()
        first, dot, rest = rest.partition(".")
    return first, model


def selections(pool, names):
    """Return the values that the selections of some models offer, by model and field."""
    there = dict(pool.iterobject())
    found = {}
    for name in names:
        if name in there:
            fields = {field: offered_of(there[name], field) for field in there[name]._fields}
            found[name] = {field: known for field, known in fields.items() if known is not None}
    return found
