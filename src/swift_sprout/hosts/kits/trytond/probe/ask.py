"""Asks a running trytond about its modules, once for all of them, and calls their pages over loopback.

Run by the host's interpreter in the host's folder. Reads one JSON line from standard input and writes JSON lines (see
``running/probe.py``). The databases that it works on are copies: nothing it does reaches the host's own.

    {"configuration": "trytond.conf", "databases": "/tmp/…", "database": "brindle_quay", "python_path": ["modules"],
     "without": [], "modules": ["tide_board"], "deep": ["tide_board"], "steps": ["data", "pages", …]}

``deep`` are the modules of which all that they carry is used once, and that the host's own checks are run on.
"""

import http.client
import importlib
import json
import logging
import os
import re
import sys
import threading
import time
import warnings

import carried
import named
import trial_rows
import used
from sprout_inside import Steps, say, told

HEADER_PERSON = "X-Sprout-Person"
OPEN_METHODS = {"GET", "HEAD"}
MANY_ROUTES = 20
MARK = re.compile(r'data-module="([^"]*)"')


class Kept(logging.Handler):
    """Keeps what the host logs of errors while a page is called."""

    def __init__(self, root):
        super().__init__(logging.WARNING)
        self.root = root
        self.records = []

    def emit(self, record):
        entry = {"level": record.levelname, "logger": record.name, "text": record.getMessage()[:500]}
        if record.exc_info and record.exc_info[1] is not None:
            entry["error"] = told(record.exc_info[1], self.root)
        self.records.append(entry)


class Ask(Steps):
    def run(self):
        self.wanted = frozenset(self.question["modules"])
        if self.step("host", self.host):
            if self.question["without_start"]:
                self.step("modules", self.modules)
            elif self.step("modules", self.modules) and self.step("start", self.start):
                if self.step("load", self.load):
                    self.examine()
        say({"answers": self.answers})

    # -- starting -------------------------------------------------------------------------------------------------

    def host(self):
        sys.path[:0] = self.question["python_path"]
        warnings.simplefilter("ignore")
        import trytond
        from trytond import config

        config.update_etc([self.question["configuration"]])
        if self.question["databases"]:
            config.set("database", "path", self.question["databases"])
        self.kept = Kept(self.root)
        logging.getLogger().addHandler(self.kept)
        return {"version": trytond.__version__}

    def modules(self):
        """Ask each module by itself what would stop the start of the whole host."""
        from trytond import modules as host

        found = sorted(host.get_modules())
        left_out = set(self.question["without"])
        stopped = {}
        needs = {}
        for name in found:
            if name in left_out:
                continue
            try:
                info = host.get_module_info(name)
                needs[name] = list(info.get("depends", []))
                if name not in ("ir", "res"):
                    self.import_registered(host, name)
            except BaseException as error:
                stopped[name] = told(error, self.root)
        there = set(needs)
        for name, wanted in needs.items():
            missing = [need for need in wanted if need not in found and need not in left_out]
            if missing and name not in stopped:
                text = f"it needs {', '.join(missing)}, which the host does not find"
                stopped[name] = {"chain": [{"kind": "MissingNeed", "text": text, "frames": [], "last": None}]}
        self.without = left_out | set(stopped)
        while True:
            more = {name for name in there - self.without if set(needs[name]) & self.without}
            if not more:
                break
            self.without |= more
        try:
            order = [node.name for node in host.create_graph({name for name in found if name not in self.without})]
        except BaseException as error:
            order = []
            self.answers["failures"]["order"] = told(error, self.root)
        return {"found": found, "stopped": stopped, "without": sorted(self.without), "order": order, "needs": needs}

    def import_registered(self, host, name):
        from trytond import tools
        from trytond.pool import Pool

        module = tools.import_module(name)
        for classes, _ in host.get_module_register(name):
            for dotted in classes:
                file_name, _, class_name = dotted.rpartition(".")
                inner = importlib.import_module(f"{module.__name__}.{file_name}") if file_name else module
                getattr(inner, class_name)
        del Pool

    def start(self):
        from trytond import modules as host
        from trytond.pool import Pool

        without = self.without
        found_by_host = host.get_modules

        def found(with_test=False):
            return found_by_host(with_test) - without

        host.get_modules = found
        made_by_host = host.create_graph

        def made(modules, with_test=False):
            return made_by_host({name for name in modules if name not in without}, with_test)

        host.create_graph = made
        Pool.start()
        return True

    def load(self):
        from trytond.pool import Pool
        from trytond.transaction import Transaction

        name, update = self.question["database"], self.question.get("update") or []
        before = self.data_as_stored(update)
        Pool(name).init(update=update or None)
        self.pool = Pool(name)
        self.Transaction = Transaction
        with Transaction().start(name, 0, readonly=True):
            Module = self.pool.get("ir.module")
            states = {one.name: one.state for one in Module.search([])}
        after = self.data_as_stored(update)
        changed = {}
        for (module, fs_id), held in before.items():
            if after.get((module, fs_id), held) != held:
                changed.setdefault(module, []).append(fs_id)
        return {"states": states, "loaded": list(self.pool._modules), "changed": changed}

    def data_as_stored(self, modules):
        """Return the rows that data files of modules brought, by module and id, as the database holds them."""
        from trytond.transaction import Transaction

        found = {}
        if modules:
            with Transaction().start(self.question["database"], 0, readonly=True) as transaction:
                for name in modules:
                    found |= rows_of_data(transaction.connection.cursor(), name)
        return found

    # -- asking ---------------------------------------------------------------------------------------------------

    def examine(self):
        wanted = self.question["steps"]

        def work(name):
            return self.inside(getattr(self, name))

        for name in ("registry", "routes"):
            self.step(name, lambda name=name: work(name))
        known = ("tables", "data", "views", "menus", "rights", "people", "rows", "actions")
        asked = [name for name in known if name in wanted]
        aside = [name for name in ("carried", "checks") if name in wanted]
        if "pages" in wanted and len(list(self.own_routes())) >= MANY_ROUTES:
            asked, aside = [], [*asked, *aside]
        collect = self.in_copy(aside, self.take_own_database(), work) if aside else None
        for name in (*asked, "pages") if "pages" in wanted else asked:
            self.step(name, lambda name=name: work(name))
        if collect is not None:
            self.step("the steps done aside", collect)

    def take_own_database(self):
        """Copy the database for a copy of this process; returns what makes that work on it."""
        import gc
        import shutil

        from trytond import config

        folder = os.path.join(self.question["databases"], "aside")
        os.mkdir(folder)
        for name in os.listdir(self.question["databases"]):
            if name.startswith(self.question["database"] + "."):
                shutil.copyfile(os.path.join(self.question["databases"], name), os.path.join(folder, name))
        gc.collect()  # connections that nobody holds any more are closed before they would be shared
        return lambda: config.set("database", "path", folder)

    def inside(self, work):
        """Do one step in a transaction of its own that is rolled back."""
        if work.__name__ in ("pages", "checks"):  # which begin transactions of their own
            return work()
        with self.Transaction().start(self.question["database"], 0, readonly=False) as transaction:
            try:
                return work()
            finally:
                transaction.rollback()

    def registry(self):
        """Tell the classes that the loaded modules brought, by module."""
        from trytond.tools import resolve

        found = {}
        for sort, by_module in self.pool.classes.items():
            for module, classes in by_module.items():
                if module not in self.pool._modules:
                    continue
                for cls, depends in classes.items():
                    if set(depends) <= set(self.pool._modules):
                        if isinstance(cls, str):
                            start = "trytond" if module in ("ir", "res") else "trytond.modules"
                            cls = resolve(f"{start}.{module}.{cls}")
                        entry = [sort, str(getattr(cls, "__name__", cls))]
                        if entry not in found.setdefault(module, []):  # a model may be made up of several classes
                            found[module].append(entry)
        return found

    def routes(self):
        """Tell the routes of all routers: router, method, address, methods, and the file that brought the method."""
        found = []
        for name, router in self.pool.iterobject("router"):
            for endpoint, route in router.__routes__.items():
                for rule in router.rules.get(endpoint, ()):
                    found.append(
                        {
                            "router": name,
                            "route": endpoint,
                            "module": self.module_of(router, endpoint),
                            "path": rule.rule,
                            "methods": sorted(rule.methods or ()),
                            "redirects": bool(rule.redirect_to),
                            "decorators": len(route.decorators),
                        }
                    )
        return found

    def module_of(self, cls, name):
        for base in cls.__mro__:
            if name in base.__dict__:
                return base.__module__.split(".")[2 if base.__module__.startswith("trytond.modules.") else 0]
        return ""

    def own_models(self, brought=False):
        """Yield the models that classes of the modules make up; ``brought`` leaves out those that others bring."""
        from trytond.model import ModelSQL

        names = {name for name, _ in self.pool.iterobject("model")}
        registry = self.answers.get("registry", {})
        owners = {}
        for module in self.answers["load"]["loaded"]:
            for sort, name in registry.get(module, ()):
                if sort == "model":
                    owners.setdefault(name, module)
        for module in self.question["modules"]:
            for sort, name in registry.get(module, ()):
                if sort == "model" and name in names and (not brought or owners.get(name) == module):
                    model = self.pool.get(name)
                    if issubclass(model, ModelSQL):
                        yield module, model

    def own_wizards(self):
        """Return the wizards that classes of the modules make up, each with the module."""
        registry = self.answers["registry"]
        there = {name for name, _ in self.pool.iterobject("wizard")}
        asked = [(module, pair) for module in self.question["deep"] for pair in registry.get(module, ())]
        return [(module, name) for module, (sort, name) in asked if sort == "wizard" and name in there]

    def data_models(self):
        """Return the models of the records that data files of the modules bring."""
        Data = self.pool.get("ir.model.data")
        return sorted({one.model for one in Data.search([("module", "in", self.question["deep"])])})

    def checks(self):
        """Tell what the host's own checks of modules say of those that are asked about."""
        registry = self.answers["registry"]
        asked = {name: registry[name] for name in self.question["deep"] if name in registry}
        return carried.host_checks(self.question["database"], asked, self.root)

    def carried(self):
        """Read, draw and look up once what the modules carry."""
        deep = self.question["deep"]
        models = [(module, model) for module, model in self.own_models() if module in deep]
        brought = [(module, model) for module, model in self.own_models(brought=True) if module in deep]

        def ids_of(model):
            return {id_: named for id_, named in self.ids_of(model).items() if named[0] in deep}

        return {
            "rows": carried.read_rows(models, self.root),
            "windows": carried.windows(self.pool, ids_of("ir.action.act_window"), self.root),
            "reports": carried.reports(self.pool, ids_of("ir.action.report"), self.root),
            "defaults": trial_rows.defaults_not_offered(brought),
            "constraints": trial_rows.constraints_of_nothing(brought),
            "messages": carried.messages(self.pool, models),
            "conditions": carried.conditions(models),
            "contexts": carried.contexts(models),
            "attributes": carried.attributes(models, self.drawn_views(models)),
            "rights": carried.rights_of_nothing(self.pool, ids_of, self.root),
            "elsewhere": self.elsewhere(),
            **named.told_of(self.pool, models, self.own_wizards(), ids_of, self.data_models()),
            "tried": trial_rows.try_rows(self.pool, brought, self.root),  # last: the others see no row of it
            "used": self.used(models, ids_of),
        }

    def drawn_views(self, models):
        """Return the views of models as trees, with what other modules put into them."""
        from lxml import etree

        found = {}
        View = self.pool.get("ir.ui.view")
        names = [model.__name__ for _, model in models]
        for view in View.search([("model", "in", names), ("inherit", "=", None)]):
            try:
                found.setdefault(view.model, []).append(
                    etree.fromstring(view.view_get(view.model)["arch"].encode("utf-8"))
                )
            except Exception:
                continue  # told of the views
        return found

    def used(self, models, ids_of):
        """Do once what people and the clock do with the modules."""
        from trytond import tools

        loaded = [name for name in self.question["deep"] if name in self.pool._modules]
        folders = {name: os.path.dirname(tools.import_module(name).__file__ or "") for name in loaded}
        jobs = [(named[0], job.method) for job, named in self.records_of(ids_of, "ir.cron")]
        offered = {}
        for action, (module, _) in self.records_of(ids_of, "ir.action.wizard"):
            places = [str(one.model).partition(",")[0] for one in action.keywords if one.model]
            models_of = {action.model, *places} - {None, "", "ir.ui.menu"}
            offered.setdefault((module, action.wiz_name), set()).update(models_of)
        there = {name for name, _ in self.pool.iterobject("wizard")}
        known = {name for name, _ in self.pool.iterobject()}
        wizards = [
            (module, name, sorted(models_of & known)) for (module, name), models_of in offered.items() if name in there
        ]
        return used.use(self.pool, self.Transaction(), models, jobs, wizards, folders, self.root)

    def records_of(self, ids_of, model):
        """Return the records that data files of the modules bring, with the module and the id of each."""
        ids = ids_of(model)
        return [(one, ids[one.id]) for one in self.pool.get(model).browse(list(ids))]

    def actions(self):
        """Tell the actions of the modules, for questions about one of them."""
        return carried.actions(self.pool, self.ids_of)

    def elsewhere(self):
        """Tell the classes that are registered for a module that the host does not have."""
        known = set(self.pool._modules) | set(self.answers["modules"]["found"])
        return [
            {
                "for": module,
                "sort": sort,
                "name": getattr(cls, "__name__", str(cls)),
                "file": sys.modules[cls.__module__].__file__,
            }
            for sort, by_module in self.pool.classes.items()
            for module, classes in by_module.items()
            for cls in classes
            if module not in known and not isinstance(cls, str)
        ]

    def tables(self):
        """Tell which tables and columns of a module's models the database lacks."""
        from trytond import backend

        found = {}
        for module, model in self.own_models():
            if callable(getattr(model, "table_query", None)):
                continue
            if not backend.TableHandler.table_exist(model._table):
                found.setdefault(module, []).append({"model": model.__name__, "table": model._table, "column": ""})
                continue
            handler = backend.TableHandler(model)
            for name, field in model._fields.items():
                if field.sql_type() and not hasattr(field, "set") and not handler.column_exist(name):
                    found.setdefault(module, []).append(
                        {"model": model.__name__, "table": model._table, "column": name}
                    )
        return found

    def rows(self):
        """Tell how many rows the tables of a module hold."""
        from trytond import backend

        found = {}
        for module, model in self.own_models(brought=True):
            if not callable(getattr(model, "table_query", None)) and backend.TableHandler.table_exist(model._table):
                cursor = self.Transaction().connection.cursor()
                table = model.__table__()
                from sql import Literal
                from sql.aggregate import Count

                cursor.execute(*table.select(Count(Literal("*"))))
                found.setdefault(module, {})[model._table] = cursor.fetchone()[0]
        return found

    def data(self):
        """Tell the ids of data records that the database has of each module."""
        Data = self.pool.get("ir.model.data")
        found = {}
        for one in Data.search([("module", "in", self.question["modules"])]):
            found.setdefault(one.module, []).append(one.fs_id)
        return found

    def views(self):
        """Open every view of the modules as the host would, and tell those that do not open."""
        View = self.pool.get("ir.ui.view")
        table = View.__table__()  # what modules that are not loaded once added to the views of others
        self.Transaction().connection.cursor().execute(*table.delete(where=~table.module.in_(list(self.pool._modules))))
        found = []
        for view in View.search([("module", "in", self.question["modules"])]):
            if view.module in self.question["deep"] and view.arch:
                found += [{"module": view.module, "name": view.name, **one} for one in self.wrong_in(view)]
            try:
                if view.inherit and view.model in (None, "", view.inherit.model):
                    view.inherit.view_get(model=view.inherit.model)
                elif view.model:
                    model = self.pool.get(view.model)
                    drawn = model.fields_view_get(view.id, view.type or view.inherit.type)
                    known = set(model._buttons)
                    for button in re.findall(r'<button\b[^>]*?\bname="([^"]*)"', str(drawn["arch"])):
                        if button not in known:
                            entry = {"module": view.module, "name": view.name, "button": button}
                            found.append(entry | {"model": view.model, "known": sorted(known)})
                else:
                    view.view_get()
            except BaseException as error:
                found.append({"module": view.module, "name": view.name, "error": told(error, self.root)})
        return found

    def wrong_in(self, view):
        """Yield what the host's own grammar of views refuses, and the fields that the model of a view has not."""
        from lxml import etree

        try:
            tree = etree.fromstring(view.arch.strip().encode("utf-8"))
            validator = view.validator() if hasattr(view, "validator") else None
        except (ValueError, etree.Error):
            return  # what cannot be read does not open either
        if validator is not None and not validator.validate(tree):
            first = validator.error_log.filter_from_errors()[0]
            yield {"invalid": first.message, "line": first.line}
        fields = {}
        if view.model and not self.without:  # what was left out may bring fields
            try:
                fields = self.pool.get(view.model)._fields
            except (KeyError, AttributeError):
                return  # a model that is not there does not open either
        for attribute in ("cursor", "sequence") if fields else ():  # fields that the client asks for by itself
            name = tree.get(attribute)
            if name and name not in fields:
                yield {"field": name, "model": view.model, "known": sorted(fields), "line": tree.sourceline}
        if fields and view.field_childs and view.field_childs not in fields:
            yield {"field": view.field_childs, "model": view.model, "known": sorted(fields), "line": 0, "id": view.id}
        for element in tree.iter("button"):
            if element.get("icon"):
                yield {"icon": element.get("icon"), "button": element.get("name"), "line": element.sourceline}
        for element in tree.iter("field", "label", "page", "separator") if fields else ():
            name = element.get("name")
            inner = any(above.tag == "field" for above in element.iterancestors())
            if name and not inner and name not in fields:
                yield {"field": name, "model": view.model, "known": sorted(fields), "line": element.sourceline}

    def ids_of(self, model):
        Data = self.pool.get("ir.model.data")
        wanted = [("module", "in", self.question["modules"]), ("model", "=", model)]
        return {one.db_id: (one.module, one.fs_id) for one in Data.search(wanted)}

    def menus(self):
        """Tell the menu entries of the modules: whether they are seen, by whom, and whether what they open opens."""
        Menu = self.pool.get("ir.ui.menu")
        found = []
        with self.Transaction().set_context(active_test=False):
            known = self.ids_of("ir.ui.menu")
            for entry in Menu.browse(list(known)):  # together, so that the host reads them at once
                module, fs_id = known[entry.id]
                above, hidden, groups = entry, "", set()
                names = []
                while above is not None:
                    names.insert(0, above.name)
                    if not above.active:
                        hidden = above.name
                    groups |= {one.name for one in above.groups}
                    above = above.parent
                opens, action_model, problem, opened_for = "", "", None, []
                try:
                    action = entry.action
                    if action is not None:
                        opened_for = sorted(one.name for one in getattr(action, "groups", ()))
                        opens = action.__name__
                        action_model = getattr(action, "res_model", "") or getattr(action, "wiz_name", "") or ""
                        if opens == "ir.action.act_window" and action_model:
                            self.pool.get(action_model)
                        elif opens == "ir.action.wizard":
                            self.pool.get(action_model, type="wizard")
                except BaseException as error:
                    problem = told(error, self.root)
                found.append(
                    {
                        "module": module,
                        "id": fs_id,
                        "title": " / ".join(names),
                        "hidden": hidden,
                        "groups": sorted(groups),
                        "own_groups": sorted(one.name for one in entry.groups),
                        "opened_for": opened_for,
                        "opens": opens,
                        "model": action_model,
                        "problem": problem,
                    }
                )
        return found

    def rights(self):
        """Tell for each model of the modules what each group may do, and what everybody may."""
        Access, Group = self.pool.get("ir.model.access"), self.pool.get("res.group")
        groups = {one.id: one.name for one in Group.search([])}
        found = []
        models = [(module, model.__name__) for module, model in self.own_models(brought=True)]
        models = [(module, name) for module, name in models if "-" not in name]
        #  asked as nobody in particular: modules may want to know more of a person than is known of the made up ones
        said = {carried.model_of(one.model) for one in Access.search([("model", "in", [name for _, name in models])])}
        for number, title in [(None, ""), *groups.items()]:
            with self.as_person((number,) if number else ()):
                for module, name in models:
                    may = Access.get_access([name])[name]
                    if title == "" or any(may.values()):
                        found.append(
                            {
                                "module": module,
                                "model": name,
                                "group": title,
                                "modes": sorted(mode for mode, yes in may.items() if yes),
                                "said": name in said,
                            }
                        )
        return found

    def as_person(self, groups):
        """Return a context in which the rights are those of somebody in the groups."""
        context = self.Transaction().set_context(_check_access=True, _groups=tuple(groups))
        user = self.Transaction().set_user(-1)

        class Both:
            def __enter__(self):
                context.__enter__()
                user.__enter__()

            def __exit__(self, *error):
                user.__exit__(*error)
                context.__exit__(*error)

        return Both()

    def people(self):
        """Tell users with their groups, for questions about a person."""
        User = self.pool.get("res.user")
        return [
            {
                "id": user.id,
                "login": user.login,
                "name": user.name or user.login,
                "active": user.active,
                "administrator": bool(getattr(user, "administrator", False)),
                "groups": sorted(self.closed(user.groups)),
            }
            for user in User.search([("login", "!=", None)])
        ]

    def closed(self, groups):
        found = {}
        waiting = list(groups)
        while waiting:
            group = waiting.pop()
            if group.id not in found:
                found[group.id] = group.name
                waiting += [group.parent] if group.parent else []
        return set(found.values())

    # -- pages ----------------------------------------------------------------------------------------------------

    def pages(self):
        """Call the pages of the modules over loopback, as people of all sorts."""
        from trytond.protocols import wrappers
        from trytond.wsgi import app
        from werkzeug.serving import WSGIRequestHandler, make_server

        user_class = self.pool.get("res.user")
        persons = self.persons()

        def user_id(request):
            person = persons.get(request.headers.get(HEADER_PERSON, ""))
            return person["id"] if person else None

        kept_groups, kept_admin = user_class.get_groups, user_class.is_administrator
        local = threading.local()
        wrappers.Request.user_id = property(user_id)

        def get_groups():
            person = persons.get(getattr(local, "person", ""))
            return tuple(person["groups"]) if person else kept_groups()

        def is_administrator():
            person = persons.get(getattr(local, "person", ""))
            return person["administrator"] if person else kept_admin()

        user_class.get_groups = staticmethod(get_groups)
        user_class.is_administrator = staticmethod(is_administrator)

        def served(environ, begin):
            local.person = environ.get("HTTP_" + HEADER_PERSON.upper().replace("-", "_"), "")
            return app(environ, begin)

        class Quiet(WSGIRequestHandler):
            def log(self, *_):
                pass

        self.begin_serving()
        server = make_server("127.0.0.1", 0, served, request_handler=Quiet)
        threading.Thread(target=server.serve_forever, daemon=True).start()  # until the process ends
        with self.Transaction().start(self.question["database"], 0, readonly=True):
            paths = [(route, self.filled(route)) for route in self.own_routes()]
        return [one for route, path in paths for one in self.call(server.server_port, route, path, persons)]

    def persons(self):
        """Who calls: nobody signed in, somebody without groups, one for each group, an administrator."""
        with self.Transaction().start(self.question["database"], 0, readonly=True):
            Group, User = self.pool.get("res.group"), self.pool.get("res.user")
            some = User.search([("login", "!=", None)], limit=1)
            number = some[0].id if some else 1
            found = {"signed in": {"id": number, "groups": [], "administrator": False}}
            found["administrator"] = {"id": number, "groups": [], "administrator": True}
            for group in Group.search([]):
                key = f"group {group.id}"
                found[key] = {"id": number, "groups": [group.id], "administrator": False, "name": group.name}
            asked = self.question.get("person")
            for user in User.search([("login", "=", asked)]) if asked else ():
                groups = [one.id for one in user.groups]
                found["person"] = {"id": user.id, "groups": groups, "administrator": bool(user.administrator)}
        return found

    def own_routes(self):
        wanted = set(self.question["modules"])
        for route in self.answers.get("routes") or ():
            if route["module"] in wanted and not route["redirects"] and "GET" in route["methods"]:
                yield route

    def call(self, port, route, path, persons):
        if path is None:
            yield {**route, "who": "", "status": None, "reason": "no record stands for its parameters"}
            return
        for who in self.callers(persons):
            answer = self.fetch(port, path, who)
            yield {**route, "asked": path, "who": persons.get(who, {}).get("name", who or "visitor"), **answer}
            if who == "" and 200 <= answer["status"] < 300:
                return

    def callers(self, persons):
        if self.question.get("person") is not None:
            return ["person" if "person" in persons else ""]
        return ["", "signed in", *sorted(key for key in persons if key.startswith("group ")), "administrator"]

    def filled(self, route):
        """Return the path with parameters that stand for something; None where nothing does."""
        from werkzeug.routing import Rule

        rule = Rule(route["path"])
        path = route["path"]
        database = self.question["database"]
        for name in rule.arguments:
            for spelled in (f"<{name}>", f"<int:{name}>", f"<string:{name}>"):
                if spelled in path:
                    value = database if name == "database_name" else self.value_for(route, name, spelled)
                    if value is None:
                        return None
                    path = path.replace(spelled, str(value))
        return path if "<" not in path else None

    def value_for(self, route, name, spelled):
        if not spelled.startswith("<int:"):
            return None
        for sort, model in self.answers["registry"].get(route["module"], ()):
            stem = model.partition(".")[2]
            if sort == "model" and stem and stem.split("_")[0] in route["route"] and "-" not in model:
                try:
                    found = self.pool.get(model).search([], limit=1)
                except Exception:
                    continue
                if found:
                    return found[0].id
        return None

    def fetch(self, port, path, who):
        self.kept.records.clear()
        began = time.monotonic()
        connection = http.client.HTTPConnection("127.0.0.1", port, timeout=self.question["page_seconds"])
        try:
            connection.request("GET", path, headers={HEADER_PERSON: who} if who else {})
            answer = connection.getresponse()
            status, body, kind = answer.status, answer.read(200_000), answer.headers.get("Content-Type", "")
        except (OSError, http.client.HTTPException, ValueError) as error:
            status, body, kind = 0, str(error).encode(), ""
        finally:
            connection.close()
        text = body.decode("utf-8", "replace")
        return {
            "status": status,
            "seconds": time.monotonic() - began,
            "type": kind,
            "marked": [name for name in dict.fromkeys(MARK.findall(text)) if name in self.wanted],
            "whole": text.rstrip().endswith("</html>") if "html" in kind else True,
            "empty": not text.strip(),
            "start": text[:300],
            "log": list(self.kept.records)[:5],
        }


#  columns that tell of the last change, and not of what stands there (its 8.2)
OF_CHANGES = {"create_date", "create_uid", "write_date", "write_uid"}


def rows_of_data(cursor, module):
    """Return the rows that data files of a module brought, by module and id: before any class of it is loaded."""
    from sql import Table

    kept = Table("ir_model_data")
    cursor.execute(*kept.select(kept.fs_id, kept.model, kept.db_id, where=kept.module == module))
    ids = {}
    for fs_id, model, number in cursor.fetchall():
        ids.setdefault(model.replace(".", "_"), {})[number] = fs_id
    found = {}
    for name, known in ids.items():
        try:
            table = Table(name)
            cursor.execute(*table.select(where=table.id.in_(list(known))))
        except Exception:  # a model whose table has a name of its own
            continue
        columns = [one[0] for one in cursor.description]
        for row in cursor.fetchall():
            values = {key: value for key, value in zip(columns, row, strict=True) if key not in OF_CHANGES}
            found[module, known[values["id"]]] = values
    return found


def main():
    """Answer the question that stands in the first line of standard input."""
    Ask(json.loads(sys.stdin.readline())).run()
    sys.stdout.flush()
    os._exit(0)
