"""Asks a Flask application about its blueprints and calls their pages over loopback, on a copy of its database.

Run by the host's interpreter in the host's folder; reads one JSON line:
    {"modules": ["tide_board"], "scratch": "/tmp/…", "without": []}
"""

import json
import os
import re
import shutil
import sqlite3
import sys
import threading
import time
import urllib.error
import urllib.request

from sprout_inside import Steps, say, secrets_in, told

#  what a template says of another one by its name: the name, and the rest of the tag
DRAWS = re.compile(r"""\{%-?\s*(?:extends|include|import|from)\s+["']([^"']+)["']([^%]*)%\}""")


class Ask(Steps):
    def run(self):
        sys.path.insert(0, self.root)
        self.errors = {}
        if self.step("host", self.host) and self.step("application", self.application):
            self.step("blueprints", self.blueprints)
            self.step("routes", self.routes)
            self.step("loaded", self.loaded)
            self.step("shadowed", self.shadowed)
            self.step("templates", self.templates)
            self.step("template_names", lambda: self.app.jinja_env.list_templates())
            self.step("tables", self.tables)
            self.begin_serving()
            self.step("pages", self.pages)
        say({"answers": self.answers})

    def host(self):
        from importlib.metadata import version

        return {"version": version("flask")}

    def application(self):
        import flask

        left_out = set(self.question["without"])
        if left_out:  # a module that stops the site is registered as an empty blueprint
            import types

            for name in left_out:
                sys.modules[name] = types.ModuleType(name)
                sys.modules[name].blueprint = flask.Blueprint(f"left_out_{name}", name)
        self.note_where_declared()
        from wsgi import app

        self.answers["secrets"] = sorted(secrets_in(dict(app.config)))
        database = app.config.get("DATABASE")
        self.answers["database"] = str(database) if database else ""
        if database and os.path.isfile(database):
            target = os.path.join(self.question["scratch"], "database.sqlite3")
            shutil.copyfile(database, target)
            app.config["DATABASE"] = target
        elif database:
            app.config["DATABASE"] = os.path.join(self.question["scratch"], "absent.sqlite3")
        flask.got_request_exception.connect(self.keep, app)
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

    def keep(self, _app, exception, **_):
        from flask import request

        self.errors[request.path] = told(exception, self.root)

    def package_of(self, import_name):
        return import_name.split(".")[0]

    def blueprints(self):
        return {name: self.package_of(one.import_name) for name, one in self.app.blueprints.items()}

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
        import inspect

        code = getattr(inspect.unwrap(self.app.view_functions[endpoint]), "__code__", None)
        owner = self.answers["blueprints"].get(endpoint.rpartition(".")[0], "")
        place = {"file": code.co_filename, "line": code.co_firstlineno} if code else {"file": "", "line": 0}
        return {"module": owner, **place}

    def templates(self):
        """Return what is wrong with the templates of the asked modules, each as the running application reads it."""
        found = []
        for module in self.question["modules"]:
            for folder, _, names in os.walk(os.path.join(self.root, module)):
                for name in names:
                    path = os.path.join(folder, name)
                    if f"{os.sep}templates{os.sep}" in path and name.endswith((".html", ".htm", ".xml", ".txt")):
                        found += [{"module": module, "file": path, **wrong} for wrong in self.wrong_in(path, module)]
        return found

    def wrong_in(self, path, module):
        """Yield what is wrong with one template; what is read here is there when its page is drawn."""
        from jinja2 import TemplateNotFound, TemplateSyntaxError, nodes

        try:
            with open(path, encoding="utf-8") as handle:
                source = handle.read()
            self.app.jinja_env.get_template(path.partition(f"{os.sep}templates{os.sep}")[2])
        except TemplateSyntaxError as error:
            if error.filename in (None, path):
                yield {"line": error.lineno, "wrong": "syntax", "what": error.message or ""}
                return
        except TemplateNotFound:
            return  # of a folder that is none of the application's
        except (OSError, UnicodeError):
            return
        for found in DRAWS.finditer(source):
            if "ignore missing" not in found[2] and not self.has_template(found[1]):
                yield {"line": source.count("\n", 0, found.start()) + 1, "wrong": "template", "what": found[1]}
        if "url_for" in source:
            yield from self.links(self.app.jinja_env.parse(source, None, path), nodes, module)

    def has_template(self, name):
        from jinja2 import TemplateNotFound, TemplateSyntaxError

        try:
            self.app.jinja_env.get_template(name)
        except TemplateNotFound as error:
            return error.name != name
        except TemplateSyntaxError:
            return True  # told of that template itself
        return True

    def links(self, tree, nodes, module):
        """Yield the addresses that a template asks for by name and that no route has, and files that are not there.

        A name that begins with a dot is one of the blueprint that draws the template: of one of the module's own.
        """
        own = [name for name, package in self.answers["blueprints"].items() if package == module]
        for call in tree.find_all(nodes.Call):
            named = call.args[0] if call.args else None
            if not (
                isinstance(call.node, nodes.Name) and call.node.name == "url_for" and isinstance(named, nodes.Const)
            ):
                continue
            endpoint = named.value
            if not isinstance(endpoint, str) or (endpoint.startswith(".") and not own):
                continue
            if endpoint.startswith("."):
                there = [name + endpoint for name in own if name + endpoint in self.app.view_functions]
                endpoint = there[0] if there else own[0] + endpoint
            if endpoint not in self.app.view_functions:
                yield {"line": call.lineno, "wrong": "endpoint", "what": endpoint}
            elif endpoint.rpartition(".")[2] == "static":
                owner = self.app.blueprints.get(endpoint.rpartition(".")[0], self.app)
                files = [one.value for one in call.kwargs if one.key == "filename"]
                for file in files:
                    if isinstance(file, nodes.Const) and owner.static_folder:
                        if not os.path.exists(os.path.join(owner.static_folder, str(file.value))):
                            yield {"line": call.lineno, "wrong": "static", "what": str(file.value)}

    def routes(self):
        owners = self.answers["blueprints"]
        found = []
        for rule in self.app.url_map.iter_rules():
            name = rule.endpoint.rpartition(".")[0]
            found.append(
                {
                    "module": owners.get(name) or self.package_of(self.app.view_functions[rule.endpoint].__module__),
                    "view": rule.endpoint,
                    "path": rule.rule,
                    "methods": sorted(rule.methods or ()),
                    "arguments": sorted(rule.arguments),
                }
            )
        return found

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
        server = make_server("127.0.0.1", 0, self.app, request_handler=Quiet)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        try:
            return [
                self.call(server.server_port, route)
                for route in self.answers["routes"]
                if route["module"] in self.question["modules"] and "GET" in route["methods"] and not route["arguments"]
            ]
        finally:
            server.shutdown()

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
        functions[:] = [watched(function) for function in functions]

    def call(self, port, route):
        began = time.monotonic()
        opener = urllib.request.build_opener(urllib.request.ProxyHandler({}))
        try:
            with opener.open(f"http://127.0.0.1:{port}{route['path']}", timeout=20) as answer:
                status, body, kind = answer.status, answer.read(), answer.headers.get("Content-Type", "")
        except urllib.error.HTTPError as answer:
            status, body, kind = answer.code, answer.read(), answer.headers.get("Content-Type", "")
        except OSError as error:
            status, body, kind = 0, str(error).encode(), ""
        return {
            **route,
            "status": status,
            "seconds": time.monotonic() - began,
            "type": kind,
            "empty": not body.strip(),
            "marked": f'data-module="{route["module"]}"'.encode() in body,
            "error": self.errors.get(route["path"]),
            "stopped_by": self.stopped.get(route["path"]),
        }


def main():
    """Answer the question that stands in the first line of standard input."""
    Ask(json.loads(sys.stdin.readline())).run()
    sys.stdout.flush()
    os._exit(0)
