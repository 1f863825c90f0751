"""Pages whose addresses have parameters, and forms that are sent: what a page that is only opened does not show.

All of it happens on the copies of the databases, and reaches nobody outside.
"""

import inspect
import re
import sqlite3
import sys
import time
from urllib.parse import urljoin, urlsplit

from sprout_filling import forms_in
from sprout_inside import at_most, nobody_outside
from sprout_mapper import mapper_of

MOST_FORMS = 40
LONGEST = 5  # seconds that the code behind a form may take
BY_CONVERTER = {"IntegerConverter": 1, "FloatConverter": 1.0, "UUIDConverter": "00000000-0000-0000-0000-000000000001"}


#  libraries that reach a database's server by themselves, past what Python knows of sockets
PAST_SOCKETS = ("psycopg", "psycopg2", "MySQLdb", "pyodbc", "oracledb", "cx_Oracle", "pymssql", "asyncpg")


def may_try(app):
    """True where nothing that a page does to a database stays: not where a library writes to a server by itself."""
    return mapper_of(app) is not None or not any(name in sys.modules for name in PAST_SOCKETS)


class Parameters:
    """Finds values for the parameters of addresses: those of a row that is there, where one can be told."""

    def __init__(self, app):
        self.app = app

    def path(self, route):
        """Return a path of a route that can be called, and whether a row stands behind it."""
        rule = next(one for one in self.app.url_map.iter_rules(route["view"]) if one.rule == route["path"])
        row = self.row_for(self.app.view_functions[route["view"]], rule.arguments)
        values = {name: row.get(name, self.plain(rule, name)) for name in rule.arguments}
        path = self.app.url_map.bind("127.0.0.1").build(route["view"], values, method="GET")
        return urlsplit(path).path, set(row) >= rule.arguments

    def plain(self, rule, name):
        return BY_CONVERTER.get(type(rule._converters[name]).__name__, "sample")

    def row_for(self, view, names):
        """Return the parameters that a row of what the view's code works on has values for."""
        functions = code_of(view)
        models = [held for code in functions for held in models_in(code)]
        for held in models if mapper_of(self.app) is not None else ():
            with self.app.app_context():
                record = mapper_of(self.app).session.query(held).first()
                found = values_of_record(record, names) if record is not None else {}
                if found:
                    return found
        database = self.app.config.get("DATABASE")
        for table in [name for code in functions for name in tables_in(code)] if database else ():
            row = first_row(database, table)
            if row:
                key = "id" if "id" in row else next(iter(row))
                return values_of(row, key, names)
        return {}


def values_of(row, key, names):
    """Return the values of parameters, each from the column that it most likely stands for."""
    found = {}
    for name in names:
        of_key = name not in row and (name in ("id", "pk", "number") or name.endswith(("_id", "_pk")))
        value = row.get(key if of_key else name)
        if isinstance(value, (int, str)):
            found[name] = value
    return found


def values_of_record(record, names):
    """Return the values of parameters that a record has, or one that it points at: the lock of a passage."""
    found = values_of(columns_of(record), record.__mapper__.primary_key[0].name, names)
    for relation in record.__mapper__.relationships if set(found) < set(names) else ():
        related = None if relation.uselist else getattr(record, relation.key)
        if related is not None:
            found = {**values_of(columns_of(related), "", set(names) - set(found)), **found}
    return found


def columns_of(record):
    return {one.key: getattr(record, one.key) for one in record.__mapper__.column_attrs}


def code_of(view):
    """Return the functions that a view runs: itself, or the methods of its class that answer."""
    held = getattr(view, "view_class", None)
    if held is None:
        return [inspect.unwrap(view)]
    methods = [getattr(held, name, None) for name in ("dispatch_request", "get", "post")]
    return [inspect.unwrap(one) for one in methods if inspect.isfunction(one)]


def models_in(view):
    names = getattr(getattr(view, "__code__", None), "co_names", ())
    held = [getattr(view, "__globals__", {}).get(name) for name in names]
    return [one for one in held if isinstance(one, type) and hasattr(one, "__mapper__")]


def tables_in(view):
    """Return the tables that the queries in the code of a view name."""
    texts = [one for one in getattr(getattr(view, "__code__", None), "co_consts", ()) if isinstance(one, str)]
    return [name for text in texts for name in re.findall(r"(?i)\bfrom\s+[\"`]?(\w+)", text)]


def first_row(database, table):
    connection = sqlite3.connect(database)
    connection.row_factory = sqlite3.Row
    try:
        row = connection.execute(f'select * from "{table}" limit 1').fetchone()
        return dict(row) if row is not None else {}
    except sqlite3.Error:
        return {}
    finally:
        connection.close()


def opened(app, path):
    """Open a page in this process, while nobody outside is reached: status, body, type and seconds of the answer.

    None where it wants somebody outside, or takes too long.
    """
    began = time.monotonic()
    wanted = []
    try:
        with nobody_outside(wanted), at_most(LONGEST):
            answer = app.test_client().get(path)
            body, kind = answer.get_data(), answer.headers.get("Content-Type", "")
    except TimeoutError:
        return None
    except Exception:
        return (500, b"", "", time.monotonic() - began) if not wanted else None
    return (answer.status_code, body, kind, time.monotonic() - began) if not wanted else None


class Sending:
    """Sends the forms of pages as somebody would who just opened them.

    errors   -- where the application's own errors are kept, by path
    harmless -- the modules whose code does nothing that cannot be taken back: only they are sent anything
    """

    def __init__(self, app, errors, harmless, owner_of):
        self.app, self.errors, self.harmless, self.owner_of = app, errors, harmless, owner_of
        self.drawn = []  # what the templates of the last answer were, and were given
        self.sent = set()

    def all(self, pages):
        """Return what is wrong with the forms of pages that answered 200, each with the page and where it goes."""
        from flask import template_rendered

        template_rendered.connect(self.note, self.app)
        self.app.config["TRAP_BAD_REQUEST_ERRORS"] = True  # a value that a view asks for and a form does not send
        found = []
        try:
            with nobody_outside():
                for page in pages:
                    found += [{**one, "page_of": page["module"]} for one in self.forms_of(page["path"])]
        finally:
            template_rendered.disconnect(self.note, self.app)
        return found

    def note(self, _app, template, context, **_):
        self.drawn.append((template.filename or "", context))

    def forms_of(self, path):
        client = self.app.test_client()
        self.drawn.clear()
        try:
            with at_most(LONGEST):
                answer = client.get(path)
            text = answer.get_data(as_text=True) if "html" in answer.headers.get("Content-Type", "") else ""
        except Exception:
            return  # told by the page itself
        files = [file for file, _ in self.drawn]
        if answer.status_code == 200:
            yield from self.searches(client, path, text, files)
        for form in forms_in(text) if answer.status_code == 200 else ():
            target = urlsplit(urljoin(f"http://127.0.0.1{path}", form["action"]))
            if form["script"] or target.netloc != "127.0.0.1" or len(self.sent) >= MOST_FORMS:
                continue
            told = {"path": path, "target": target.path, "files": files}
            endpoint, refused = self.answering(target.path)
            if refused and (refused != "absent" or client.get(target.path).status_code == 404):
                yield {**told, "wrong": refused, "view": endpoint, "module": self.owner_of(endpoint)}
            elif endpoint and not refused and endpoint not in self.sent and self.owner_of(endpoint) in self.harmless:
                self.sent.add(endpoint)
                wrong = None if form["files"] else self.send(client, target, form["data"])
                if wrong is not None:
                    yield {**told, "view": endpoint, "module": self.owner_of(endpoint), **wrong}

    def searches(self, client, path, text, files):
        """Yield what breaks when the forms of a page that only ask for another one are filled in."""
        for form in forms_in(text, "get"):
            target = urlsplit(urljoin(f"http://127.0.0.1{path}", form["action"]))
            endpoint, refused = self.answering(target.path, "GET") if target.netloc == "127.0.0.1" else ("", "")
            if not endpoint or refused or form["script"] or not form["data"] or ("get", endpoint) in self.sent:
                continue
            if self.owner_of(endpoint) not in self.harmless:
                continue
            self.sent.add(("get", endpoint))
            self.errors.pop(target.path, None)
            try:
                with at_most(LONGEST):
                    client.get(target.path, query_string=form["data"])
            except TimeoutError:
                continue
            except Exception:
                pass  # kept as the application tells of it
            error = self.errors.pop(target.path, None)
            if error is not None and error["chain"][0]["kind"] != "BadRequest":
                told = {"path": path, "target": target.path, "files": files, "view": endpoint}
                yield {**told, "module": self.owner_of(endpoint), "wrong": "error", "error": error}

    def answering(self, path, method="POST"):
        """Return the view that takes what is sent to a path, and why none does."""
        from werkzeug.exceptions import HTTPException, MethodNotAllowed, NotFound
        from werkzeug.routing import RequestRedirect

        adapter = self.app.url_map.bind("127.0.0.1")
        try:
            return adapter.match(path, method=method)[0], ""
        except NotFound:
            return "", "absent"
        except MethodNotAllowed:
            return adapter.match(path, method="GET")[0], "refused"
        except (RequestRedirect, HTTPException):
            return "", ""

    def send(self, client, target, data):
        """Send a form; returns what is wrong with it, or None."""
        self.errors.pop(target.path, None)
        self.drawn.clear()
        try:
            with at_most(LONGEST):
                answer = client.post(target.path + (f"?{target.query}" if target.query else ""), data=data)
            status, body = answer.status_code, answer.get_data(as_text=True)
        except Exception:
            status, body = 500, ""
        error = self.errors.pop(target.path, None)
        kind = error["chain"][0]["kind"] if error is not None else ""
        if status >= 500 and error is not None and kind not in ("BadRequest", "CSRFError"):
            return {"wrong": "error", "error": error}
        if (
            kind == "CSRFError"
            or (status == 400 and "csrf" in body.lower())
            or any(self.lacks_token(context) for _, context in self.drawn)
        ):
            return {"wrong": "token"}
        return None

    def lacks_token(self, context):
        """True where a form among what a template is given was refused for its token."""
        errors = (getattr(one, "errors", None) for one in context.values())
        return any(isinstance(one, dict) and "csrf_token" in one for one in errors)
