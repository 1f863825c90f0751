"""What people and the clock do with the rows of modules, done once: forms filled, buttons pressed, jobs run.

Works on a copy of the database, in a transaction that is rolled back; nobody outside is reached meanwhile, and nothing
is done with the code of a module that reaches files or programs.
"""

import contextlib
import inspect

import trial_rows
from sprout_inside import at_most, nobody_outside, told
from sprout_reaching import reaches_out

SECONDS = 5  # for each thing that is done
MANY_STATES = 6  # of a wizard that is walked
MANY_WALKS = 8  # through one wizard, each by a button that was not pressed before


class NoAnswer(Exception):
    """A method that the host calls for what it returns has returned nothing of use."""


class Used:
    """Does each thing once and keeps what failed: the module, the thing, what was done, and the error."""

    def __init__(self, pool, transaction, root):
        self.pool = pool
        self.transaction = transaction
        self.root = root
        self.found = []
        self.given = {}  # the fields that each method of a wizard gives values to, by method

    def attempt(self, module, about, doing, name, work):
        """Do one thing; return what came of it, or None where it failed."""
        try:
            with at_most(SECONDS):
                return work()
        except Exception as error:
            self.tell(module, about, doing, name, error)
            return None

    def tell(self, module, about, doing, name, error):
        entry = {"module": module, "about": about, "doing": doing, "name": name}
        self.found.append({**entry, "error": told(error, self.root)})

    # -- rows -----------------------------------------------------------------------------------------------------

    def model(self, module, model):
        """Fill the form of one model, press its buttons, copy a row."""
        about = model.__name__
        own = trial_rows.methods_of(model, module)
        if not own & set(dir(model)):
            return
        for name in sorted(own):
            if name.startswith("default_") and name[8:] in model._fields:
                method = getattr(model, name)
                if not inspect.signature(method).parameters:  # some ask for a value of another field
                    self.attempt(module, about, "default", name, method)
        row = trial_rows.a_full_row(self.pool, model)
        if row is None:
            return
        for name, field in model._fields.items():
            self.field(module, model, own, row, name, field)
            if getattr(field, "getter", None) in own:
                self.attempt(module, about, "reading", name, lambda name=name: model.read([row.id], [name]))
        for name in sorted(own & set(getattr(model, "_buttons", ()))):
            self.press(module, model, name)
        if "copy" in own:
            self.attempt(module, about, "copying", "copy", lambda: self.copied(model, row))

    def field(self, module, model, own, row, name, field):
        about = model.__name__
        for method, names in (
            (f"on_change_{name}", getattr(field, "on_change", None)),
            (f"on_change_with_{name}", getattr(field, "on_change_with", None)),
        ):
            if method in own and hasattr(model, method):
                self.attempt(module, about, "form", method, lambda m=method, n=names: getattr(self.shown(row, n), m)())
        offered = getattr(field, "selection", None)
        if isinstance(offered, str) and offered in own:
            names = getattr(field, "selection_change_with", None)
            self.attempt(module, about, "offering", offered, lambda: self.offered(model, row, offered, names))
        setter = getattr(field, "setter", None)
        if setter and setter in own:
            self.attempt(module, about, "setting", setter, lambda: self.set_field(model, row, name))

    def shown(self, row, names):
        """Return a row as a form holds it that is not saved: with what its code says it depends on."""
        shown = type(row)()
        for name in names or ():
            name = name.partition(".")[0].removeprefix("_parent_")
            if name in row._fields:
                setattr(shown, name, getattr(row, name))
        return shown

    def offered(self, model, row, method, names):
        static = inspect.getattr_static(model, method)
        values = getattr(self.shown(row, names) if not isinstance(static, classmethod) else model, method)()
        for one in values:
            _, _ = one

    def set_field(self, model, row, name):
        value = getattr(row, name)
        model.write([row], {name: getattr(value, "id", value)})

    def press(self, module, model, name):
        """Press a button on a row of its own, in a state in which people see it."""
        row = trial_rows.a_full_row(self.pool, model)
        if row is None:
            return
        if not isinstance(inspect.getattr_static(model, name), classmethod) and hasattr(getattr(model, name), "change"):
            names = set(model._fields) - {"id"}
            self.attempt(module, model.__name__, "pressing", name, lambda: getattr(self.shown(row, names), name)())
            return
        state = self.state_for(model, name, row)
        if state is not None:
            row = self.in_state(model, row, *state)
        self.attempt(module, model.__name__, "pressing", name, lambda: getattr(model, name)([row]))

    def state_for(self, model, button, row):
        """Return the field of the state and the value in which a button is seen; None where it always is."""
        field = model._fields.get(getattr(model, "_transition_state", "state"))
        if field is None or not isinstance(getattr(field, "selection", None), (list, tuple)):
            return None
        states = model._buttons[button] or {}
        name = field.name
        for value, _ in field.selection:
            values = trial_rows.shown_values(row) | {name: value}
            if value and not any(trial_rows.holds(states.get(one), values) for one in ("invisible", "readonly")):
                return name, value
        return None

    def in_state(self, model, row, name, value):
        if getattr(row, name) == value:
            return row
        table = model.__table__()
        self.transaction.connection.cursor().execute(
            *table.update(columns=[getattr(table, name)], values=[value], where=table.id == row.id)
        )
        for cache in self.transaction.cache.values():
            cache.clear()
        return model(row.id)

    def copied(self, model, row):
        made = model.copy([row])
        if not isinstance(made, (list, tuple)) or not made:
            raise NoAnswer(f"copy returns {made!r}, not the new rows")

    # -- jobs and wizards -----------------------------------------------------------------------------------------

    def job(self, module, job):
        """Run the method of a scheduled job, said as ``model|method``."""
        name, _, method = job.partition("|")
        model = self.pool.get(name)
        if hasattr(model, method):
            self.attempt(module, name, "job", method, getattr(model, method))

    def wizard(self, module, name, models):
        """Walk a wizard from its first state, for a row of each model that it is offered on."""
        wizard = self.pool.get(name, type="wizard")
        for model in models or [""]:
            row = trial_rows.a_full_row(self.pool, self.pool.get(model)) if model else None
            if model and row is None:
                continue
            given = {"active_model": model or None, "active_id": row.id if row else None}
            with self.transaction.set_context(**given, active_ids=[row.id] if row else []):
                with self.heard(wizard):
                    self.walks(module, wizard)
                self.defaults(module, wizard)

    @contextlib.contextmanager
    def heard(self, wizard):
        """Keep which fields the methods of a wizard give values to while the block runs."""
        methods = {f"default_{name}" for name in wizard.states} & set(dir(wizard))
        for name in methods:
            setattr(wizard, name, self.keeping(name, getattr(wizard, name)))
        try:
            yield
        finally:
            for name in methods:
                delattr(wizard, name)

    def keeping(self, name, method):
        def kept(asked, fields):
            given = method(asked, fields)
            self.given[name] = list(given or ())
            return given

        return kept

    def walks(self, module, wizard):
        """Walk a wizard until each button of the views that are come by was pressed once."""
        pressed = set()
        for _ in range(MANY_WALKS):
            before = len(pressed)
            start = wizard.start_state
            self.attempt(module, wizard.__name__, "walking", start, lambda: self.walk(module, wizard, pressed))
            if len(pressed) == before:
                return

    def walk(self, module, wizard, pressed):
        """Walk a wizard from its first state to its end, by buttons that were not pressed before where there are."""
        session, state, end = wizard.create()
        data, seen = {}, set()
        while state != end and state not in seen and len(seen) < MANY_STATES:
            seen.add(state)
            answer = wizard.execute(session, data, state)
            for action in answer.get("actions", ()):
                doing = next((one for one in dir(wizard) if one.startswith("do_")), state)
                self.attempt(module, wizard.__name__, "walking", doing, lambda a=action, d=doing: self.opened(a, d))
            view = answer.get("view")
            if not view:
                return
            buttons = [one for one in view["buttons"] if one["state"] not in (end, *seen)]
            buttons.sort(key=lambda one: ((view["state"], one["state"]) in pressed, not one.get("default")))
            if not buttons:
                return
            pressed.add((view["state"], buttons[0]["state"]))
            model = self.pool.get(wizard.states[view["state"]].model_name)
            values = {key: value for key, value in view["defaults"].items() if key in model._fields}
            values |= {key: value for key, value in view["values"].items() if key in model._fields}
            data = {view["state"]: trial_rows.with_required(self.pool, model, values)}
            state = buttons[0]["state"]

    def defaults(self, module, wizard):
        """Tell the values that a wizard gives to fields which the model of the view does not have."""
        for name, state in wizard.states.items():
            for field in self.given.pop(f"default_{name}", ()):
                if field.partition(".")[0] not in self.pool.get(state.model_name)._fields:
                    error = NoAnswer(f"{state.model_name} has no field {field!r}")
                    self.tell(module, wizard.__name__, "walking", f"default_{name}", error)

    def opened(self, answer, method):
        """Search what an action opens, as clients do."""
        from trytond.pyson import PYSONDecoder

        if not isinstance(answer, (list, tuple)) or len(answer) != 2:
            raise NoAnswer(f"{method} returns {type(answer).__name__}, not an action with its data")
        action, _ = answer
        if isinstance(action, dict) and action.get("res_model") and action.get("pyson_domain"):
            decoder = PYSONDecoder({"active_id": None, "active_ids": [], "active_model": None})
            self.pool.get(action["res_model"]).search(decoder.decode(action["pyson_domain"]), limit=1)


def use(pool, transaction, models, jobs, wizards, folders, root):
    """Return what fails of all that people and the clock do with modules.

    models  -- pairs of a module and a model that it brings
    jobs    -- pairs of a module and ``model|method``
    wizards -- a module, a wizard that it brings, and the models that it is offered on
    folders -- where the code of each module stands
    """
    quiet = {name for name, folder in folders.items() if not reaches_out(folder)}
    used = Used(pool, transaction, root)
    work = [(used.model, one) for one in models if not is_made_up(one[1])]
    work += [(used.wizard, one) for one in wizards]
    work += [(used.job, one) for one in jobs]
    with nobody_outside():
        for do, asked in work:
            if asked[0] in quiet:
                try:
                    do(*asked)
                except Exception:  # what cannot even be tried is told by whoever looks at it itself
                    continue
    return used.found


def is_made_up(model):
    """True for a model without rows of its own, or with one row only, which holds settings."""
    from trytond.model import ModelSingleton

    return callable(getattr(model, "table_query", None)) or issubclass(model, ModelSingleton)
