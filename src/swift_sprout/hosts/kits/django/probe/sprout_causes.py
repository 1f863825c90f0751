"""Finds the line of the host that an exception comes from: of its code, or of one of its templates."""

import inspect
import os
import re
import sys
from collections import Counter

from sprout_inside import told

#  "note() takes 2 positional arguments but 4 were given", "Board.tides() missing 1 required positional argument: 'day'"
CALLED_WRONGLY = re.compile(r"([\w.<>]+)\(\) (?:takes|missing|got an unexpected|got multiple)")
NO_DICTIONARY = "didn't return a dictionary"
ROUNDS = 20  # a place that an endless recursion has passed more often than this belongs to it


def place_of(error, root):
    """Return file and line of the deepest place of the host that an exception has passed, or None.

    A template's own line counts as deep as the frame that draws it, whatever the host's settings say about debugging.
    Of an exception that has passed no such place, the one that it was raised from is asked.
    """
    for _ in range(5):
        if error is None:
            break
        frames = frames_of(error)
        places = [own for frame, line in frames if (own := of_frame(frame, line, error, root)) is not None]
        found = special_place(error, [frame for frame, _ in frames], root)
        if found is None and places:
            found = round_about(places) if isinstance(error, RecursionError) else places[-1][:2]
        if found is not None:
            return found
        error = error.__cause__ or (None if error.__suppress_context__ else error.__context__)
    return None


def class_passed(error, root):
    """Return where the class of the host begins that is deepest in what an exception has passed, or None.

    Its own code may all be a package's, which works on what the class says.
    """
    classes = (type(frame.f_locals.get("self")) for frame, _ in reversed(frames_of(error)))
    return next((place for kind in classes if (place := start_of_class(kind, root)) is not None), None)


def start_of_class(kind, root):
    """Return where a class of the host begins; None for any other one."""
    if not in_host(getattr(sys.modules.get(kind.__module__), "__file__", None), root):
        return None
    try:
        return inspect.getsourcefile(kind), inspect.getsourcelines(kind)[1]
    except (OSError, TypeError):
        return None  # it is made by code


def described(error, root, kind=None):
    """Describe an exception with its place: of the host's code, else of a class of it that was worked on.

    kind -- the class that it is about, for one that has passed no other
    """
    place = place_of(error, root) or class_passed(error, root) or (start_of_class(kind, root) if kind else None)
    return {**told(error, root), "place": place}


def frames_of(error):
    """Return each frame that an exception has passed with its line, the deepest last."""
    found, step = [], error.__traceback__
    while step is not None:
        found.append((step.tb_frame, step.tb_lineno))
        step = step.tb_next
    return found


def of_frame(frame, line, error, root):
    """Return file, line and kind of a frame that is of the host: its code, or a node of a template that is drawn."""
    if in_host(frame.f_code.co_filename, root):
        return frame.f_code.co_filename, line, "code"
    drawn = frame.f_locals.get("self")
    if frame.f_code.co_name in ("render_annotated", "render") and hasattr(drawn, "child_nodelists"):
        token = getattr(drawn, "token", None)
    elif frame.f_code.co_name == "compile_nodelist":
        token = getattr(error, "token", None)
    else:
        return None
    file = getattr(getattr(drawn, "origin", None), "name", None)
    return (file, token.lineno, type(drawn).__name__) if token is not None and in_host(file, root) else None


def special_place(error, frames, root):
    """Return the place of an error whose frames do not lead to what is wrong."""
    if type(error).__name__ == "SynchronousOnlyOperation":
        waiting = [frame.f_code for frame in frames if frame.f_code.co_flags & inspect.CO_COROUTINE]
        return next((start_of(code, root) for code in reversed(waiting) if start_of(code, root)), None)
    if isinstance(error, UnicodeDecodeError):
        origin = frames[-1].f_locals.get("origin") if frames else None
        origin = origin or next((one.f_locals["origin"] for one in reversed(frames) if "origin" in one.f_locals), None)
        name = getattr(origin, "name", None)
        if in_host(name, root):
            return name, error.object[: error.start].count(b"\n") + 1
    if NO_DICTIONARY in str(error):
        function = frames[-1].f_locals.get("processor") if frames else None
        return start_of(getattr(function, "__code__", None), root)
    match = CALLED_WRONGLY.match(str(error)) if isinstance(error, TypeError) else None
    if match and frames and not in_host(frames[-1].f_code.co_filename, root):
        return called(frames[-1], match[1], root)
    return None


def called(frame, qualname, root):
    """Return where a function begins that a frame called in a way it does not take."""
    owner, _, name = qualname.rpartition(".")
    held = list(frame.f_locals.values())
    held += [value for one in held if hasattr(one, "__dict__") for value in list(vars(one).values())]
    kind = frame.f_globals.get(owner.rpartition(".")[2])
    held += [getattr(kind, name, None), frame.f_globals.get(name)]
    for value in held:
        function = inspect.unwrap(value) if callable(value) and hasattr(value, "__code__") else None
        function = getattr(value, "__func__", function)
        if function is not None and getattr(function, "__name__", "") == name:
            place = start_of(getattr(function, "__code__", None), root)
            if place is not None:
                return place
    return defined(qualname, root)


def defined(qualname, root):
    """Return where the host's only function of a qualified name begins; None where it has none, or several."""
    found = set()
    for module in list(sys.modules.values()):
        if in_host(getattr(module, "__file__", None), root):
            value = module
            for name in qualname.split("."):
                value = getattr(value, name, None)
            function = inspect.unwrap(value) if callable(value) else None
            found.add(start_of(getattr(function, "__code__", None), root))
    found.discard(None)
    return found.pop() if len(found) == 1 else None


def round_about(places):
    """Return the place at which an endless recursion goes round: an include before what it draws on the way."""
    counts = Counter(places)
    often = [place for place, count in counts.items() if count > ROUNDS]
    often.sort(key=lambda place: (place[2] != "IncludeNode", place[2] != "code"))
    return (often or places[-1:])[0][:2]


def circle_of(error):
    """Return the templates that extend each other in a circle, as file and line; None where none do.

    A host tells of a circle that the template is missing: it looks for another one of the same name.
    """
    if type(error).__name__ != "TemplateDoesNotExist":
        return None
    drawn = {}
    for frame, _ in [*frames_of(error), *(frames_of(error.__cause__) if error.__cause__ else ())]:
        node = frame.f_locals.get("self")
        if type(node).__name__ == "ExtendsNode" and frame.f_code.co_name == "render":
            drawn[node.origin.template_name] = (node.origin.name, node.token.lineno if node.token else 1)
    names = list(drawn)
    return [drawn[name] for name in names[names.index(str(error)) :]] if str(error) in names else None


def start_of(code, root):
    return (code.co_filename, code.co_firstlineno) if code is not None and in_host(code.co_filename, root) else None


def in_host(file, root):
    return bool(file) and str(file).startswith(root + os.sep) and "site-packages" not in str(file)
