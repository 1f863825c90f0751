"""Asks a Flask application about its blueprints and calls their pages over loopback, on a copy of its database.

Run by the host's interpreter in the host's folder; reads one JSON line:
    {"modules": ["tide_board"], "scratch": "/tmp/…", "without": []}
"""

import http.client
import importlib
import importlib.abc
import importlib.util
import inspect
import json
import os
import sqlite3
import sys
import threading
import time
import traceback
import types
from urllib.parse import quote

from sprout_apart import open_copies, take_back_commits
from sprout_inside import Steps, absent_names, one_letter_off, say, secrets_in, told
from sprout_mapper import file_of, mapped, put_together
from sprout_reaching import reaches_out
from sprout_sending import Parameters, Sending, code_of, may_try, opened
from sprout_templates import Templates, note_missing

MOST_HOST_PAGES = 12
NOWHERE = "/no-page-of-this-site"  # what the site's own page on absent ones answers


class AnyBlueprint(types.ModuleType):
    """Stands for a module that stops the site: whatever is asked of it is an empty blueprint that takes everything."""

    def __init__(self, name):
        super().__init__(name)
        self.__path__ = []

    def __getattr__(self, name):
        import flask

        if name.startswith("__"):
            raise AttributeError(name)
        own = f"left_out_{self.__name__}_{name}".replace(".", "_")
        made = flask.Blueprint(own, self.__name__, root_path=os.getcwd())
        setattr(self, name, made)
        return made


class LeftOut(importlib.abc.MetaPathFinder, importlib.abc.Loader):
    """Stands for what lies within modules that stop the site."""

    def __init__(self, names):
        self.begins = tuple(f"{name}." for name in names)

    def find_spec(self, name, path=None, target=None):
        return importlib.util.spec_from_loader(name, self) if name.startswith(self.begins) else None

    def create_module(self, spec):
        return AnyBlueprint(spec.name)

    def exec_module(self, module):
        """There is no code to run."""


def application_of(said):
    """Return the application that the host's own command would take; raises NoAppException where there is none."""
    from flask.cli import find_app_by_string, find_best_app

    file, _, name = said.partition(":")
    module = importlib.import_module(file)
    return find_app_by_string(module, name) if name else find_best_app(module)


def is_of_handler(error):
    """True for an error of what handles another one, which a view raised."""
    handled = error.__context__
    frames = traceback.extract_tb(handled.__traceback__) if handled is not None and error.__cause__ is None else ()
    inside = f"{os.sep}flask{os.sep}"
    return any(frame.name == "dispatch_request" and inside in frame.filename for frame in frames)


def giving(function, what):
    """Return a function of the site that tells where it returns nothing instead of what the host goes on with."""
    import functools

    code = getattr(inspect.unwrap(function), "__code__", None)

    @functools.wraps(function)
    def given(*arguments, **named):
        answer = function(*arguments, **named)
        if answer is None and code is not None:
            error = TypeError(f"{function.__name__} returns None instead of {what}")
            error.sprout_declared = (code.co_filename, code.co_firstlineno)
            raise error
        return answer

    return given


def served_by(said):
    """Return the application that servers load; it may stand in something that mounts several. None for none."""
    import flask
    from flask.cli import NoAppException

    try:
        return application_of(said)
    except NoAppException:
        for value in vars(sys.modules[said.partition(":")[0]]).values():
            for _ in range(4):
                value = getattr(value, "app", None)
                if isinstance(value, flask.Flask):
                    return value
    return None


class Ask(Steps):
    def run(self):
        sys.path[:0] = self.question["source_roots"]
        self.errors = {}
        if self.step("host", self.host) and self.step("application", self.application):
            self.step("blueprints", self.blueprints)
            self.step("routes", self.routes)
            self.step("loaded", self.loaded)
            self.step("unregistered", self.unregistered)
            self.step("unanswered", self.unanswered)
            self.step("validators", lambda: validators_of_nothing(self.root + os.sep, self.package_of))
            self.step("shadowed", self.shadowed)
            self.step("template_names", lambda: self.app.jinja_env.list_templates())
            self.step("tables", self.tables)
            self.step("put_together", lambda: put_together(self.app, self.root + os.sep))
            self.begin_serving()
            self.step("pages", self.pages)
            self.step("mapped", lambda: mapped(self.app, self.package_of))  # a page may have made the tables
            self.step("forms", self.forms)
            self.step("absent", lambda: absent_names(self.question["known"], self.root))
            self.step("templates", self.templates)  # those that a page drew are compiled by now
        say({"answers": self.answers})

    def host(self):
        from importlib.metadata import version

        return {"version": version("flask")}

    def application(self):
        import flask

        left_out = set(self.question["without"])
        if left_out:  # a module that stops the site is registered as an empty blueprint
            for name in left_out:
                sys.modules[name] = AnyBlueprint(name)
            sys.meta_path.insert(0, LeftOut(left_out))
        self.made = []
        self.note_where_declared()
        open_copies(self.question["scratch"])
        app = self.loaded_application()
        self.answers["secrets"] = sorted(secrets_in(dict(app.config)))
        database = app.config.get("DATABASE")
        self.answers["database"] = str(database) if database else file_of(app)
        for functions, gives in (
            (app.template_context_processors, "a dict"),
            (app.after_request_funcs, "the response"),
        ):
            for named in functions.values():
                named[:] = [one if inspect.iscoroutinefunction(one) else giving(one, gives) for one in named]
        take_back_commits()
        flask.got_request_exception.connect(self.keep, app)
        app.wsgi_app = self.keeping(app.wsgi_app)
        self.app = app
        return True

    def note_where_declared(self):
        """Let what a blueprint put off until it is registered tell, where it fails, the line that declared it."""
        import flask

        record = flask.Blueprint.record
        root = self.root + os.sep

        def recording(blueprint, function):
            frame = sys._getframe(1)
            while frame is not None and not frame.f_code.co_filename.startswith(root):
                frame = frame.f_back
            declared = (frame.f_code.co_filename, frame.f_lineno) if frame is not None else None

            def later(state):
                try:
                    return function(state)
                except Exception as error:
                    if declared and not hasattr(error, "sprout_declared"):
                        error.sprout_declared = declared
                    raise

            return record(blueprint, later)

        flask.Blueprint.record = recording
        begin = flask.Blueprint.__init__

        def beginning(blueprint, *given, **named):
            begin(blueprint, *given, **named)
            frame = sys._getframe(1)
            if frame.f_code.co_filename.startswith(root):
                self.made.append((blueprint, frame.f_code.co_filename, frame.f_lineno))

        flask.Blueprint.__init__ = beginning

    def keep(self, _app, exception, **_):
        from flask import request

        if is_of_handler(exception):
            exception.__suppress_context__ = True  # what it handles is no fault
        self.errors[request.path] = told(exception, self.root)

    def keeping(self, answer):
        """Wrap an application so that what breaks after a page was made, as in a teardown, is kept as well."""

        def answered(environ, start_response):
            try:
                return answer(environ, start_response)
            except Exception as error:
                self.errors.setdefault(environ.get("PATH_INFO", ""), told(error, self.root))
                raise

        return answered

    def loaded_application(self):
        """Load the application as the host's own command does, but with the errors that its code raises.

        What servers load comes first; it may put the application into something else that answers.
        """
        from flask.cli import load_dotenv

        load_dotenv()
        inside = served_by(self.question["loads"]) if self.question["loads"] else None
        return inside if inside is not None else application_of(self.question["application"])

    def package_of(self, import_name):
        """Return the module that a name of the site belongs to, or its first part."""
        known = [one for one in self.question["known"] if import_name == one or import_name.startswith(f"{one}.")]
        return max(known, key=len, default=import_name.split(".")[0])

    def blueprints(self):
        return {name: self.package_of(one.import_name) for name, one in self.app.blueprints.items()}

    def unregistered(self):
        """Return the blueprints with views that the site's code makes and the application does not have."""
        there = {id(one) for one in self.app.blueprints.values()}
        return [
            {
                "module": self.package_of(blueprint.import_name),
                "name": blueprint.name,
                "made_in": blueprint.import_name,
                "variable": variable_of(blueprint),
                "file": file,
                "line": line,
            }
            for blueprint, file, line in self.made
            if id(blueprint) not in there and blueprint.deferred_functions
        ]

    def unanswered(self):
        """Return methods of views' classes that are named nearly as one of HTTP, and classes where a view must be."""
        from flask.views import MethodView, http_method_funcs

        found = []
        for endpoint, view in self.app.view_functions.items():
            if inspect.isclass(view):
                found.append({"module": self.owner_of(endpoint), "method": view.__name__, "near": "", **place_of(view)})
            held = getattr(view, "view_class", None)
            for name, method in vars(held).items() if held is not None and issubclass(held, MethodView) else ():
                near = [one for one in sorted(http_method_funcs) if one_letter_off(name, one)]
                if near and not hasattr(held, near[0]) and inspect.isfunction(method):
                    place = {"file": method.__code__.co_filename, "line": method.__code__.co_firstlineno}
                    found.append({"module": self.owner_of(endpoint), "method": name, "near": near[0], **place})
        return found

    def loaded(self):
        """Return the files of the site that the application has loaded."""
        files = (getattr(module, "__file__", None) for module in list(sys.modules.values()))
        return sorted({os.path.realpath(file) for file in files if file and file.startswith(self.root + os.sep)})

    def shadowed(self):
        """Return the views whose whole address another view answers: the one that was declared first."""
        from werkzeug.exceptions import HTTPException

        adapter = self.app.url_map.bind("127.0.0.1")
        found = []
        for rule in self.app.url_map.iter_rules():
            if rule.arguments or "GET" not in (rule.methods or ()) or rule.endpoint.endswith("static"):
                continue
            try:
                answering, _ = adapter.match(rule.rule, method="GET")
            except HTTPException:
                continue
            if answering != rule.endpoint:
                entry = {"path": rule.rule, "view": rule.endpoint, "answers": answering}
                found.append({**entry, **self.place_of(rule.endpoint), "other": self.place_of(answering)})
        return found

    def place_of(self, endpoint):
        view = self.app.view_functions.get(endpoint)
        functions = code_of(view) if view is not None else []
        code = getattr(functions[-1], "__code__", None) if functions else None
        owner = self.answers["blueprints"].get(endpoint.rpartition(".")[0], "")
        place = {"file": code.co_filename, "line": code.co_firstlineno} if code else {"file": "", "line": 0}
        held = getattr(view, "view_class", None)
        if held is not None and not place["file"].startswith(self.root + os.sep):
            place = place_of(held)
        return {"module": owner, **place}

    def templates(self):
        """Return what is wrong with the site's own templates, each as the running application reads it."""
        return Templates(self.app, self.question["folders"], self.answers["blueprints"]).wrong()

    def routes(self):
        found = []
        for rule in self.app.url_map.iter_rules():
            found.append(
                {
                    "module": self.owner_of(rule.endpoint),
                    "view": rule.endpoint,
                    "path": rule.rule,
                    "methods": sorted(rule.methods or ()),
                    "arguments": sorted(rule.arguments),
                }
            )
        return found

    def declared_in(self, endpoint):
        """Return the file of a view, as it is imported; empty for an address without a view."""
        return getattr(self.app.view_functions.get(endpoint), "__module__", "") or ""

    def tables(self):
        database = self.app.config.get("DATABASE")
        if not database or not os.path.isfile(database):
            return {}
        connection = sqlite3.connect(database)
        rows = connection.execute(
            "select m.name, c.name from sqlite_master m, pragma_table_info(m.name) c where m.type = 'table'"
        ).fetchall()
        found = {}
        for table, column in rows:
            found.setdefault(table, []).append(column)
        counts = {table: connection.execute(f'select count(*) from "{table}"').fetchone()[0] for table in found}
        connection.close()
        return {table: {"columns": columns, "rows": counts[table]} for table, columns in found.items()}

    def pages(self):
        from werkzeug.serving import WSGIRequestHandler, make_server

        class Quiet(WSGIRequestHandler):
            def log(self, *_):
                pass

        self.watch_what_comes_first()
        self.missing = {}
        note_missing(self.app, self.missing)
        asked = [
            route
            for route in self.answers["routes"]
            if "GET" in route["methods"] and not route["arguments"] and not route["view"].endswith("static")
        ]
        mine = [route for route in asked if route["module"] in self.question["modules"]]
        known = self.question["known"]
        of_host = [{**route, "module": ""} for route in asked if route["module"] not in known and self.is_own(route)]
        of_host = [*of_host[:MOST_HOST_PAGES], {"module": "", "view": "", "path": NOWHERE}]
        server = make_server("127.0.0.1", 0, self.app, request_handler=Quiet)
        threading.Thread(target=server.serve_forever, daemon=True).start()  # until the process ends
        found = [self.call(server.server_port, route) for route in [*mine, *of_host]]
        return [*found, *self.pages_with_parameters()]

    def pages_with_parameters(self):
        """Ask for the modules' pages whose addresses have parameters, by values of a row where one can be told.

        What such a page does, it does to one thing: nobody outside is reached meanwhile, such as a database's server.
        """
        parameters = Parameters(self.app)
        found = []
        if not may_try(self.app):
            return found
        for route in self.answers["routes"]:
            mine = route["module"] in self.question["modules"]
            if mine and "GET" in route["methods"] and route["arguments"] and not route["view"].endswith("static"):
                try:
                    path, of_row = parameters.path(route)
                except Exception:
                    continue  # no value is known that its address takes
                asked = opened(self.app, path)
                if asked is not None:
                    found.append(self.described({**route, "path": path, "guessed": not of_row}, *asked))
        return found

    def forms(self):
        """Send the forms of the modules' pages; returns what is wrong with them."""
        if not may_try(self.app):
            return []
        pages = [page for page in self.answers.get("pages") or () if page["module"] and page["status"] == 200]
        showing = [page for page in pages if page["forms"]]
        harmless = (
            [name for name in self.question["modules"] if not reaches_out(place_of_module(name))] if showing else []
        )
        return Sending(self.app, self.errors, harmless, self.owner_of).all(showing)

    def owner_of(self, endpoint):
        owner = self.answers["blueprints"].get(endpoint.rpartition(".")[0])
        return owner or self.package_of(self.declared_in(endpoint))

    def is_own(self, route):
        """True for an address whose view lies in the site's own code."""
        return self.place_of(route["view"])["file"].startswith(self.root + os.sep)

    def watch_what_comes_first(self):
        """Note which function that the site calls before each request answers in the place of the page."""
        import functools

        from flask import request
        from werkzeug.exceptions import HTTPException

        self.stopped = {}

        def watched(function):
            code = getattr(function, "__code__", None)
            told_of = {
                "name": getattr(function, "__name__", "it"),
                "module": self.package_of(getattr(function, "__module__", "") or ""),
                "file": code.co_filename if code else "",
                "line": code.co_firstlineno if code else 0,
            }

            @functools.wraps(function)
            def calling(*arguments, **named):
                try:
                    answer = function(*arguments, **named)
                except HTTPException:
                    self.stopped[request.path] = told_of
                    raise
                if answer is not None:
                    self.stopped[request.path] = told_of
                return answer

            return calling

        functions = self.app.before_request_funcs.get(None, [])
        functions[:] = [one if inspect.iscoroutinefunction(one) else watched(one) for one in functions]

    def call(self, port, route):
        began = time.monotonic()
        connection = http.client.HTTPConnection("127.0.0.1", port, timeout=20)
        try:
            connection.request("GET", quote(route["path"], safe="/:@!$&'()*+,;=~-._%"))
            answer = connection.getresponse()  # one that leads elsewhere is not followed: that is asked for by itself
            status, body, kind = answer.status, answer.read(), answer.headers.get("Content-Type", "")
        except (OSError, http.client.HTTPException) as error:
            status, body, kind = 0, str(error).encode(), ""
        finally:
            connection.close()
        return self.described(route, status, body, kind, time.monotonic() - began)

    def described(self, route, status, body, kind, seconds):
        """Return what a page answered, with what the application told of it meanwhile."""
        return {
            **route,
            "place": self.place_of(route["view"]),
            "status": status,
            "seconds": seconds,
            "type": kind,
            "empty": not body.strip(),
            "forms": b"<form" in body,
            "marked": f'data-module="{route["module"].rpartition(".")[2]}"'.encode() in body,
            "error": self.errors.get(route["path"]),
            "stopped_by": self.stopped.get(route["path"]),
            "missing": self.missing.get(route["path"], []),
        }


def variable_of(blueprint):
    """Return the name by which the file that makes a blueprint holds it; empty for none."""
    held = vars(sys.modules.get(blueprint.import_name, types.ModuleType("none")))
    return next((name for name, value in held.items() if value is blueprint), "")


def place_of(held):
    """Return where a class stands."""
    try:
        return {"file": inspect.getsourcefile(held) or "", "line": inspect.getsourcelines(held)[1]}
    except (OSError, TypeError):
        return {"file": "", "line": 0}


def validators_of_nothing(root, package_of):
    """Return the methods of forms that are named like validators of fields which the form nearly has."""
    if "wtforms" not in sys.modules:
        return []
    from wtforms.fields.core import UnboundField
    from wtforms.form import BaseForm

    waiting, found = [BaseForm], []
    while waiting:
        form = waiting.pop()
        waiting += form.__subclasses__()
        fields = [name for name in dir(form) if isinstance(getattr(form, name, None), UnboundField)]
        for name, method in vars(form).items():
            said = name.removeprefix("validate_")
            if said == name or said in fields or not inspect.isfunction(method):
                continue
            near = [one for one in fields if one_letter_off(said, one)]
            if any(hasattr(further, said) for further in form.__subclasses__()):
                continue  # they bring the field
            if near and method.__code__.co_filename.startswith(root):
                place = {"file": method.__code__.co_filename, "line": method.__code__.co_firstlineno}
                entry = {"module": package_of(form.__module__), "form": form.__name__, "method": name}
                found.append({**entry, "near": f"validate_{near[0]}", **place})
    return found


def place_of_module(name):
    """Return the folder of a loaded module, or its file where that is all of it."""
    file = getattr(sys.modules.get(name), "__file__", None) or ""
    return os.path.dirname(file) if os.path.basename(file) == "__init__.py" else file


def main():
    """Answer the question that stands in the first line of standard input."""
    Ask(json.loads(sys.stdin.readline())).run()
    sys.stdout.flush()
    os._exit(0)
