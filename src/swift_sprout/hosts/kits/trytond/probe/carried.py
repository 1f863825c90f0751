"""What modules carry beside pages: judged by the host's own check of modules, and drawn, read and called once.

Works on a copy of the database, in transactions that are rolled back.
"""

import io
import json
import unittest

import trial_rows
from sprout_inside import told

#  the host's own checks that show something broken; the others judge taste, such as unused files (its 8.2)
CHECKS = (
    "rec_name",
    "model__access__",
    "rpc_callable",
    "missing_depends",
    "depends",
    "field_methods",
    "field_relation_target",
    "field_relation_domain",
    "workflow_transitions",
    "wizards",
    "selection_fields",
    "function_fields",
    "modelsingleton_inherit_order",
    "buttons_states",
)


class Failed(unittest.TestResult):
    """Keeps what failed: the check, what it was about, and the error."""

    def __init__(self):
        super().__init__(io.StringIO(), False, 0)
        self.found = []

    def addSubTest(self, test, subtest, err):
        if err is not None:
            self.found.append((test, dict(subtest.params), err[1]))

    def addFailure(self, test, err):
        self.found.append((test, {}, err[1]))

    addError = addFailure


def host_checks(database, registry, root):
    """Run the host's own checks of modules on a database that has them; returns what failed, by module.

    registry -- the classes of each module, as pairs of sort and name
    """
    from trytond.pool import Pool
    from trytond.transaction import Transaction

    start, testing = Pool.start, getattr(Pool, "test", False)
    Pool.start = classmethod(lambda cls: None)  # the classes are registered already
    try:
        from trytond.tests import test_tryton
    except ImportError:  # an installation that leaves the host's tests out
        return None
    finally:
        Pool.start, Pool.test = start, testing
    test_tryton.DB_NAME = database
    test_tryton.isregisteredby = lambda *said, **named: True  # the pool shows no others, below
    every = Pool.iterobject
    found = {}
    for name, classes in registry.items():
        result = Failed()
        own = frozenset(map(tuple, classes))
        Pool.iterobject = lambda pool, type="model", own=own: (
            (one, cls) for one, cls in every(pool, type) if (type, one) in own
        )
        with Transaction().start(database, 1, readonly=False) as transaction:
            for check in checks_of(test_tryton.ModuleTestCase, name):
                check.run(result)
            transaction.rollback()
        found[name] = [
            {
                "check": test._testMethodName.removeprefix("test_"),
                "about": {key: getattr(value, "tag", None) or str(value) for key, value in about.items()},
                "says": isinstance(error, AssertionError),
                "error": told(error, root),
            }
            for test, about, error in result.found
        ]
    Pool.iterobject = every
    return found


def checks_of(case, module):
    """Return the host's checks of a module, without the transaction of its own that would empty all caches."""
    methods = {f"test_{check}": getattr(case, f"test_{check}", None) for check in CHECKS}
    bare = {name: getattr(method, "__wrapped__", method) for name, method in methods.items() if method is not None}
    nothing = classmethod(lambda cls: None)
    made = type(
        "Checks",
        (case,),
        {"module": module, "setUpClass": nothing, "tearDownClass": nothing, "longMessage": False, **bare},
    )
    return [made(name) for name in bare]


def read_rows(models, root):
    """Search and read a few rows of each model, with all its fields; returns what fails."""
    found = []
    for module, model in models:
        try:
            rows = model.search([], limit=3)
        except BaseException as error:
            found.append({"module": module, "model": model.__name__, "field": "", "error": told(error, root)})
            continue
        for name in model._fields if rows else ():
            try:
                model.read([row.id for row in rows], [name])
            except BaseException as error:
                found.append({"module": module, "model": model.__name__, "field": name, "error": told(error, root)})
    return found


def windows(pool, ids, root):
    """Evaluate the domains, orders and contexts of actions that open windows, and search with them."""
    from trytond.pyson import PYSONDecoder
    from trytond.transaction import Transaction

    found = []
    choices = [{"active_id": None, "active_ids": []}, {"active_id": 1, "active_ids": [1]}]
    decoders = [PYSONDecoder({**chosen, "active_model": None}) for chosen in choices]
    for action in pool.get("ir.action.act_window").browse(list(ids)):  # together, so that they are read at once
        module, fs_id = ids[action.id]
        if not action.res_model:
            continue
        try:
            model = pool.get(action.res_model)
            order = decoders[0].decode(action.pyson_order)
            written = [action.pyson_domain, action.pyson_search_value]
            written += [tab.domain for tab in action.act_window_domains]
            domains = [decoder.decode(one) for decoder in decoders for one in dict.fromkeys(written) if one]
            given = decoders[0].decode(action.pyson_context)
            for context in (given, given | filled_in(pool, action.context_model)):
                with Transaction().set_context(context):
                    for position, one in enumerate(domains if hasattr(model, "search") else ()):
                        if one not in domains[:position] or not position:
                            model.search(one, order=order, limit=1)
        except BaseException as error:
            found.append({"module": module, "id": fs_id, "name": action.name, "error": told(error, root)})
    return found


def filled_in(pool, name):
    """Return what the form above a list gives to its search when every field of it is filled in."""
    fields = pool.get(name)._fields.items() if name else ()
    return {field: trial_rows.VALUES[one._type] for field, one in fields if one._type in trial_rows.VALUES}


def reports(pool, ids, root):
    """Draw the reports of modules for one row of their model: one that is tried out where there is none."""
    Action = pool.get("ir.action.report")
    found = []
    for id_, (module, fs_id) in ids.items():
        action = Action(id_)
        entry = {"module": module, "id": fs_id, "name": action.report_name, "known": True, "error": None}
        found.append(entry)
        try:
            report = pool.get(action.report_name, type="report")
        except KeyError:
            entry["known"] = False
            entry["near"] = sorted(name for name, _ in pool.iterobject("report"))
            continue
        try:
            records = []
            if action.model:
                model = pool.get(action.model)
                records = list(model.search([], limit=1)) or [trial_rows.a_full_row(pool, model)]
                records = [one for one in records if one is not None]
            entry["rows"] = len(records)
            ids_drawn = [one.id for one in records]
            data = {"ids": ids_drawn, "id": ids_drawn[0] if records else -1, "model": action.model}
            if records:  # as the host hands them over, which templates may count on
                records = report._get_records(ids_drawn, action.model, data)
            report.render(action, report.get_context(records, {}, data))
        except BaseException as error:
            entry["error"] = told(error, root)
    return found


def actions(pool, ids_of):
    """Tell the actions of modules: what they open, where people find them, and which groups they are for."""
    found = []
    for sort, kind, opens in (
        ("ir.action.act_window", "model", "res_model"),
        ("ir.action.wizard", "wizard", "wiz_name"),
        ("ir.action.report", "report", "report_name"),
    ):
        there = {name for name, _ in pool.iterobject(kind)}
        for id_, (module, fs_id) in ids_of(sort).items():
            action = pool.get(sort)(id_)
            places = [str(one.model).partition(",") for one in action.keywords if one.model]
            entries = [pool.get("ir.ui.menu")(int(id_)) for name, _, id_ in places if name == "ir.ui.menu"]
            model = action.res_model if kind == "model" else action.model
            found.append(
                {
                    "module": module,
                    "id": fs_id,
                    "sort": kind,
                    "title": action.name,
                    "opens": getattr(action, opens),
                    "there": not getattr(action, opens) or getattr(action, opens) in there,
                    "model": model or "",
                    "active": action.active,
                    "groups": sorted(one.name for one in action.groups),
                    "menu": sorted(one.complete_name for one in entries),
                    "offered": sorted({name for name, _, _ in places if name != "ir.ui.menu"}),
                }
            )
    return found


def messages(pool, models):
    """Tell the messages that constraints of models name and that no data bring."""
    Data = pool.get("ir.model.data")
    found = []
    for module, model in models:
        for name, _, message in getattr(model, "_sql_constraints", ()):
            owner, dot, fs_id = str(message).partition(".")
            if dot and not Data.search([("module", "=", owner), ("fs_id", "=", fs_id)], limit=1):
                found.append({"module": module, "model": model.__name__, "constraint": name, "message": message})
    return found


def rights_of_nothing(pool, ids_of, root):
    """Tell the records on rights that are about buttons and fields that are not there, and rules that do not hold."""
    found = []
    models = {name for name, _ in pool.iterobject()}
    for id_, (module, fs_id) in ids_of("ir.model.button").items():
        button = pool.get("ir.model.button")(id_)
        model = model_of(button.model)
        if model in models and button.name not in getattr(pool.get(model), "_buttons", {}):
            known = sorted(getattr(pool.get(model), "_buttons", {}))
            found.append(
                {"module": module, "id": fs_id, "sort": "button", "name": button.name, "model": model, "known": known}
            )
    for id_, (module, fs_id) in ids_of("ir.model.field.access").items():
        access = pool.get("ir.model.field.access")(id_)
        model, field = model_of(access.model), getattr(access.field, "name", access.field)
        if model in models and field not in pool.get(model)._fields:
            known = sorted(pool.get(model)._fields)
            found.append(
                {"module": module, "id": fs_id, "sort": "field", "name": field, "model": model, "known": known}
            )
    for id_, (module, fs_id) in ids_of("ir.rule").items():
        try:
            rule = pool.get("ir.rule")(id_)
            model = model_of(rule.rule_group.model)
            from trytond.pyson import PYSONDecoder

            context = pool.get("ir.rule")._get_context(model)
            pool.get(model).search(PYSONDecoder(context).decode(rule.domain), limit=1)
        except BaseException as error:
            found.append({"module": module, "id": fs_id, "sort": "rule", "error": told(error, root)})
    return found


#  what conditions may ask for that is no field: what clients know of themselves and of the row (the host's 8.2)
GIVEN = {"id", "active_id", "active_ids", "active_model", "context", "groups"}


def conditions(models):
    """Tell the conditions of buttons that ask for what their model does not have: clients cannot work them out."""
    found = []
    for module, model in models:
        for button, states in getattr(model, "_buttons", {}).items():
            for state in ("invisible", "readonly", "icon"):
                for name in sorted(asked_in(states.get(state))):
                    if name not in model._fields and name not in GIVEN and not name.startswith("_"):
                        entry = {"module": module, "model": model.__name__, "button": button, "state": state}
                        found.append({**entry, "name": name, "known": sorted(model._fields)})
    return found


def attributes(models, arches):
    """Tell what models say of elements of views which none of their views has, and conditions that ask for no field.

    arches -- the views of each model as they are drawn, as trees
    """
    from lxml import etree

    found = []
    for module, model in models:
        if "view_attributes" not in trial_rows.methods_of(model, module):
            continue
        for path, _attribute, value, *_ in model.view_attributes():
            entry = {"module": module, "model": model.__name__, "path": path}
            trees = arches.get(model.__name__, ())
            try:
                placed = any(tree.xpath(path) for tree in trees)
            except etree.XPathError:
                continue  # the host's views say so when they are opened
            if trees and not placed:
                known = {value for tree in trees for one in tree.iter() for value in (one.get("name"), one.get("id"))}
                found.append({**entry, "name": "", "known": sorted(known - {None})})
            for states in value.values() if isinstance(value, dict) else [value]:
                for name in sorted(asked_in(states)):
                    if name not in model._fields and name not in GIVEN and not name.startswith("_"):
                        found.append({**entry, "name": name, "known": sorted(model._fields)})
    return found


def contexts(models):
    """Tell the contexts of fields that ask for what their model does not have."""
    found = []
    for module, model in models:
        for name, field in model._fields.items():
            for asked in sorted(asked_in(getattr(field, "context", None))):
                if asked not in model._fields and asked not in GIVEN and not asked.startswith("_"):
                    entry = {"module": module, "model": model.__name__, "field": name, "name": asked}
                    found.append({**entry, "known": sorted(model._fields)})
    return found


def asked_in(condition):
    """Return the names that a condition asks the row for."""
    from trytond.pyson import PYSON, PYSONEncoder

    if isinstance(condition, dict):
        return set().union(*(asked_in(one) for one in condition.values()))
    if not isinstance(condition, PYSON):
        return set()
    found = set()
    waiting = [json.loads(PYSONEncoder().encode(condition))]
    while waiting:
        one = waiting.pop()
        if isinstance(one, dict):
            if one.get("__class__") == "Eval":
                found.add(str(one.get("v")).partition(".")[0])
            waiting += one.values()
        elif isinstance(one, list):
            waiting += one
    return found


def model_of(named):
    """Return the name of a model from what a record holds of it: newer versions hold the name, older ones a record."""
    return named if isinstance(named, str) else getattr(named, "name", None) or getattr(named, "model", None)
