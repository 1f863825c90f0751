"""Asks a Flask application about its blueprints and calls their pages over loopback, on a copy of its database.

Run by the host's interpreter in the host's folder; reads one JSON line:
    {"modules": ["tide_board"], "scratch": "/tmp/…", "without": []}
"""

import json
import os
import shutil
import sqlite3
import sys
import threading
import time
import urllib.error
import urllib.request

from sprout_inside import Steps, say, secrets_in, told


class Ask(Steps):
    def run(self):
        sys.path.insert(0, self.root)
        self.errors = {}
        if self.step("host", self.host) and self.step("application", self.application):
            self.step("blueprints", self.blueprints)
            self.step("routes", self.routes)
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

    def keep(self, _app, exception, **_):
        from flask import request

        self.errors[request.path] = told(exception, self.root)

    def package_of(self, import_name):
        return import_name.split(".")[0]

    def blueprints(self):
        return {name: self.package_of(one.import_name) for name, one in self.app.blueprints.items()}

    def routes(self):
        owners = self.answers["blueprints"]
        found = []
        for rule in self.app.url_map.iter_rules():
            name = rule.endpoint.rpartition(".")[0]
            found.append(
                {
                    "module": owners.get(name, ""),
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
        }


def main():
    """Answer the question that stands in the first line of standard input."""
    Ask(json.loads(sys.stdin.readline())).run()
    sys.stdout.flush()
    os._exit(0)
