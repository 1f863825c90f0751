"""Serves a Django host on loopback and notes of each numbered request what the host did: shared by the probes."""

import functools
import json
import os
import re
import socketserver
import sys
import threading
from wsgiref.simple_server import WSGIRequestHandler, WSGIServer

from sprout_causes import circle_of, class_passed, place_of
from sprout_forms import note_forms
from sprout_inside import CHANNEL, cores, one_letter_off, told

HEADER_VIEW = "X-Sprout-View"

LOG = {}
MARKS = {}
HERE = threading.local()


def logged():
    number = getattr(HERE, "number", "")
    return LOG.setdefault(number, {"templates": []}) if number else None


def harmless(note):
    """Keep an error of what only looks on away from the page that is looked at: objects of a host may do anything."""

    @functools.wraps(note)
    def noting(*given):
        try:
            note(*given)
        except Exception:
            pass

    return noting


def left_in_code(*_, **__):
    raise RuntimeError("breakpoint() is left in the code: a server waits there for a debugger")


class Quiet(WSGIRequestHandler):
    def log_message(self, *arguments):
        pass

    def address_string(self):
        return self.client_address[0]


class Server(socketserver.ThreadingMixIn, WSGIServer):
    daemon_threads = True

    def server_bind(self):  # without the look-up of the machine's name
        socketserver.TCPServer.server_bind(self)
        self.server_name, self.server_port = "127.0.0.1", self.server_address[1]
        self.setup_environ()


class Servers:
    """The servers of one application: one in this process, and one in a copy of it where that is asked for.

    roll_back -- whether nothing that a request does to a database may stay
    """

    def __init__(self, application, root, roll_back):
        from django.core.signals import got_request_exception
        from django.template.base import Template, Variable, VariableDoesNotExist

        self.application = rolled_back(application) if roll_back else application
        self.root = root
        self.copy = None  # the id of the copy's process, the pipe that ends it, and the one that it tells its log to
        got_request_exception.connect(self.excepted, weak=False)
        sys.breakpointhook = left_in_code
        rendered = Template._render

        def render(template, context):
            note_template(template)
            note_context(context)
            return rendered(template, context)

        Template._render = render
        note_tags()
        resolved = Variable._resolve_lookup

        def resolve(variable, context):
            try:
                return resolved(variable, context)
            except VariableDoesNotExist as error:
                note_missing(variable, error)
                raise

        Variable._resolve_lookup = resolve

    def start(self):
        """Serve on a thread; returns the port."""

        def counted(environ, start_response):
            HERE.number = environ.get("HTTP_X_SPROUT_REQUEST", "")
            return self.application(environ, start_response)

        server = Server(("127.0.0.1", 0), Quiet)
        server.set_app(counted)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        return server.server_address[1]

    def start_in_copy(self):
        """Serve in a copy of this process until ``log`` is asked for; returns the port, or None where it cannot be."""
        if not hasattr(os, "fork") or cores() < 2:
            return None
        reading, telling_here = os.pipe()
        until, ending = os.pipe()
        child = os.fork()
        if child == 0:
            try:
                for descriptor in (reading, ending, CHANNEL):
                    os.close(descriptor)
                with os.fdopen(telling_here, "w", encoding="utf-8") as here:
                    print(self.start(), file=here, flush=True)
                    os.read(until, 1)  # until the other end is closed
                    json.dump(LOG, here, default=str)
            finally:
                os._exit(0)
        os.close(telling_here)
        os.close(until)
        self.copy = child, ending, os.fdopen(reading, encoding="utf-8")
        port = self.copy[2].readline().strip()
        return int(port) if port else None

    def log(self):
        """Return what was noted of each request; the copy ends with this."""
        if self.copy is not None:
            child, ending, reading = self.copy
            self.copy = None
            os.close(ending)
            text = reading.read()
            os.waitpid(child, 0)
            if text:
                LOG.update(json.loads(text))
        return LOG

    def excepted(self, request=None, **_):
        entry = logged()
        error = sys.exc_info()[1]
        if entry is not None and error is not None:
            entry["error"] = {
                **told(error, self.root),
                "place": place_of(error, self.root),
                "class": class_passed(error, self.root),
                "circle": circle_of(error),
            }


class Witness:
    """Middleware next to the controllers: tells in the answer which controller made it."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        response = self.get_response(request)
        view = getattr(request, "sprout_view", None)
        if view:
            response[HEADER_VIEW] = view
        return response

    def process_view(self, request, function, arguments, keywords):
        view = unwrapped(function)
        request.sprout_view = "{}.{}".format(
            getattr(view, "__module__", ""),
            getattr(view, "__qualname__", type(view).__name__),
        )


@harmless
def note_template(template):
    entry = logged()
    if entry is None or len(entry["templates"]) > 30:
        return
    origin = getattr(template.origin, "name", "") or ""
    if any(one["file"] == origin for one in entry["templates"]):
        return
    if origin not in MARKS:
        MARKS[origin] = marks_of(template.nodelist)
    entry["templates"].append({"file": origin, "marks": MARKS[origin]})


@harmless
def note_context(context):
    note_forms(context)


def note_tags():
    """From now on, note the tags of libraries that pages draw."""
    from django.template import library

    @harmless
    def note_tag(node):
        entry = logged()
        if entry is not None:
            tag = [node.func.__module__, node.token.contents.split()[0], getattr(node.origin, "name", "")]
            tags = entry.setdefault("tags", [])
            if tag not in tags:
                tags.append(tag)

    def noting(draws):
        def draw(node, context):
            note_tag(node)
            return draws(node, context)

        return draw

    for sort in (library.SimpleNode, library.InclusionNode):
        sort.render = noting(sort.render)


@harmless
def note_missing(variable, error):
    """Note what a template asks for and is not given; with the name that is nearly the same, where one is there."""
    entry = logged()
    if entry is None or len(error.params) != 2 or len(entry.setdefault("missing", [])) > 30:
        return
    from django.db.models import Model
    from django.template.context import BaseContext

    name, held = str(error.params[0]), error.params[1]
    if isinstance(held, BaseContext):
        there = list(held.flatten())
    else:  # the host itself has asked what it has
        there = list(held) if isinstance(held, dict) else [one for one in dir(held) if str(one)[0] != "_"]
    near = [one for one in there if isinstance(one, str) and one_letter_off(name, one)]
    told = {"name": name, "variable": str(variable.var)}
    if len(name) > 3 and near and not {f"{name}s", name[:-1] if name[-1] == "s" else ""} & set(near):
        entry["missing"].append({**told, "near": min(near)})
    elif isinstance(held, BaseContext):
        entry["missing"].append({**told, "near": ""})
    elif isinstance(held, Model):
        entry["missing"].append({**told, "near": "", "of": type(held).__name__})


def marks_of(nodes):
    """Return literal texts of a template that every answer made from it holds."""
    from django.template.base import TextNode
    from django.template.loader_tags import BlockNode, ExtendsNode

    marks = []
    for node in nodes:
        if isinstance(node, TextNode):
            marks += [line.strip() for line in node.s.splitlines() if telling(line)]
        elif isinstance(node, (BlockNode, ExtendsNode)):
            marks += marks_of(node.nodelist)
    return sorted(marks, key=len, reverse=True)[:12]


def telling(line):
    """True when a line of a template says more than structure: words, or an attribute that names something."""
    return bool(re.search(r"data-[a-z-]+=|\bid=", line)) or len(re.sub(r"<[^>]*>?|\W", "", line)) >= 6


def rolled_back(application):
    """Wrap an application so that nothing a request does to a database stays."""
    from django.db import connections, transaction

    def answer(environ, start_response):
        from contextlib import ExitStack

        with ExitStack() as stack:
            for alias in connections:
                stack.enter_context(transaction.atomic(using=alias))
            response = application(environ, start_response)
            body = [b"".join(response)]
            close = getattr(response, "close", None)
            if close:
                close()
            for alias in connections:
                transaction.set_rollback(True, using=alias)
        return body

    return answer


def unwrapped(view):
    """Return the function or class behind decorators, partials and class-based controllers."""
    for _ in range(20):
        if hasattr(view, "view_class"):
            return view.view_class
        if isinstance(view, functools.partial):
            view = view.func
        elif hasattr(view, "__wrapped__"):
            view = view.__wrapped__
        else:
            break
    return view
