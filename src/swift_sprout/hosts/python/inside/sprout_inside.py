"""What every probe of a Python host shares; imported by the host's interpreter, from beside the probe.

Its first output stream becomes the channel to the program; whatever the host prints goes to the error stream.
"""

import contextlib
import difflib
import gc
import importlib.util
import json
import os
import re
import signal
import socket
import sys
import threading
import time
import traceback
import types

CHANNEL = os.dup(1)
os.dup2(2, 1)


def say(message):
    data = (json.dumps(message, default=str) + "\n").encode("utf-8")
    while data:
        data = data[os.write(CHANNEL, data) :]


def told(error, root):
    """Describe an exception: its kind, text, chain and the frames that lie in the host's own folder."""
    chain = []
    while error is not None and len(chain) < 5:
        frames = [
            {"file": frame.filename, "line": frame.lineno, "name": frame.name}
            for frame in traceback.extract_tb(error.__traceback__)
        ]
        own = [
            frame
            for frame in frames
            if frame["file"].startswith(root + os.sep) and "site-packages" not in frame["file"]
        ]
        entry = {"kind": type(error).__name__, "text": str(error)[:2000], "frames": own[-6:]}
        if isinstance(error, SyntaxError):
            entry["file"], entry["line"] = error.filename, error.lineno
        if isinstance(error, ImportError):
            entry["missing"] = error.name
        declared = getattr(error, "sprout_declared", None) or (None if own else class_of_missing(error, root))
        if declared:
            entry["file"], entry["line"] = declared
        last = frames[-1] if frames else None
        entry["last"] = last
        chain.append(entry)
        error = error.__cause__ or (None if error.__suppress_context__ else error.__context__)
    return {"chain": chain}


def cores():
    """Return how many cores this process may use."""
    return len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1


def one_letter_off(name, other):
    """True for two names of which one has a letter more, less or other than the other, or two of them swapped.

    A plural on -ies counts as one letter more, as on -s.
    """
    if {name, other} in ({one, one[:-1] + "ies"} for one in (name, other) if one.endswith("y")):
        return True
    if name == other or abs(len(name) - len(other)) > 1:
        return False
    begins = 0
    while begins < min(len(name), len(other)) and name[begins] == other[begins]:
        begins += 1
    left, right = name[begins:], other[begins:]
    return (
        left[1:] == right
        or right[1:] == left
        or left[1:] == right[1:]
        or (left[:2] == right[1::-1] and len(left) > 1 and left[2:] == right[2:])
    )


def class_of_missing(error, root):
    """Return file and line of the host's own class that lacks what an AttributeError is about; None for another's."""
    lacking = getattr(error, "obj", None) if isinstance(error, AttributeError) else None
    if lacking is None or isinstance(lacking, types.ModuleType):
        return None
    kind = lacking if isinstance(lacking, type) else type(lacking)
    file = getattr(sys.modules.get(kind.__module__), "__file__", None) or ""
    if not file.startswith(root + os.sep) or "site-packages" in file:
        return None
    with open(file, encoding="utf-8", errors="replace") as handle:
        lines = handle.read().splitlines()
    begins = (number for number, line in enumerate(lines, 1) if line.lstrip().startswith(f"class {kind.__name__}"))
    return file, next(begins, 1)


SECRET = re.compile(
    r"(?i)[\w.-]*(?:secret|passw(?:or)?d|passphrase|pwd|token|api_?key|private_?key|auth_?key|salt)[\w.-]*"
)


def secrets_in(named, depth=6):
    """Return the texts that a running host holds under names of secrets: to be hidden in what is told of it."""
    found = set()
    for name, value in named.items() if isinstance(named, dict) and depth else ():
        if SECRET.fullmatch(str(name)):
            found.update(texts_in(value, depth))
        elif isinstance(value, dict):
            found.update(secrets_in(value, depth - 1))
    return found


def texts_in(value, depth):
    if isinstance(value, bytes):
        value = value.decode("utf-8", "replace")
    if isinstance(value, str):
        #  names of classes and of settings, and paths, are none
        return () if re.fullmatch(r"[A-Za-z_]\w*(\.\w+)+|/[\w/.-]*|[A-Z_]+", value) or len(value) < 6 else (value,)
    if isinstance(value, dict):
        value = list(value.values())
    if isinstance(value, (list, tuple, set)) and depth:
        return tuple(text for one in value for text in texts_in(one, depth - 1))
    return ()


@contextlib.contextmanager
def nobody_outside(wanted=None):
    """Refuse every connection over the network while the block runs: what is tried is nobody's business.

    wanted -- a list that is told whom it was tried to reach
    """
    connect = socket.socket.connect

    def refused(self, address):
        if self.family in (socket.AF_INET, socket.AF_INET6):
            if wanted is not None:
                wanted.append(address)
            raise ConnectionRefusedError("nobody is asked while something is tried")
        return connect(self, address)

    socket.socket.connect = refused
    try:
        yield
    finally:
        socket.socket.connect = connect


@contextlib.contextmanager
def at_most(seconds):
    """End what is tried with a TimeoutError where it takes too long, on the main thread of systems that can."""
    if not hasattr(signal, "SIGALRM") or threading.current_thread() is not threading.main_thread():
        yield
        return

    def ended(*_):
        raise TimeoutError(f"it took more than {seconds} s")

    before = signal.signal(signal.SIGALRM, ended)
    signal.setitimer(signal.ITIMER_REAL, seconds)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        signal.signal(signal.SIGALRM, before)


ASKED = re.compile(r"(?<![\w.])([A-Za-z_]\w*)\.([A-Za-z_]\w*)")


def absent_names(modules, root):
    """Return what the text of loaded modules asks of packages' modules and they do not have: to be looked at closer.

    It may stand in a comment, or be asked for with care; only who reads the file can tell.
    """
    found = []
    inside = tuple(f"{name}." for name in modules)
    for dotted, module in list(sys.modules.items()):
        file = getattr(module, "__file__", None) or ""
        if not f"{dotted}.".startswith(inside) or not is_of_host(file, root) or not file.endswith(".py"):
            continue
        held = {name: one for name, one in vars(module).items() if isinstance(one, types.ModuleType)}
        held = {name: one for name, one in held.items() if not is_of_host(getattr(one, "__file__", None) or "", root)}
        if not held:
            continue
        with open(file, encoding="utf-8", errors="replace") as handle:
            asked = set(ASKED.findall(handle.read()))
        for alias, name in sorted(one for one in asked if one[0] in held):
            other = held[alias]
            if not hasattr(other, name) and not is_part(other.__name__, name):
                near = difflib.get_close_matches(name, dir(other), 1, 0.75)
                found.append({"file": file, "alias": alias, "name": name, "of": other.__name__, "near": near[:1]})
    return found


def is_of_host(file, root):
    return file.startswith(root + os.sep) and "site-packages" not in file


def is_part(package, name):
    """True for a module of a package that may be there as soon as anything imports it."""
    try:
        return importlib.util.find_spec(f"{package}.{name}") is not None
    except (ImportError, ValueError, AttributeError):
        return False


class Steps:
    """The steps of a probe, their answers, and the failures among them."""

    def __init__(self, question):
        self.question = question
        self.root = os.path.realpath(os.getcwd())
        self.answers = {"failures": {}, "took": {}}
        gc.disable()  # a host's start makes very much that stays; looking for garbage in it takes a fifth of the time

    def begin_serving(self):
        """From now on look for garbage as a host that serves does, but not in what its start has made."""
        gc.freeze()
        gc.enable()

    def step(self, name, work):
        """Do one step; a failure of any kind is kept and does not hide the later answers."""
        say({"step": name})
        began = time.monotonic()
        try:
            self.answers[name] = work()
            return True
        except BaseException as error:  # hosts and modules may even end the program
            if isinstance(error, KeyboardInterrupt):
                raise
            self.answers["failures"][name] = told(error, self.root)
            return False
        finally:
            self.answers["took"][name] = round(time.monotonic() - began, 4)

    def in_copy(self, names, before=None, work=None):
        """Begin steps in a copy of this process, on another core; returns what waits for them and takes their answers.

        before -- done first in the copy, such as leaving what two processes must not share
        work   -- does a step by its name; the method of that name unless it is said

        Where a process cannot be copied, or its copy ends early, the steps are done here when they are waited for.
        """
        if not names:
            return lambda: True

        work = work or (lambda name: getattr(self, name)())

        def here():
            for name in names:
                self.step(name, lambda name=name: work(name))
            return True

        if not hasattr(os, "fork"):
            return here
        reading, writing = os.pipe()
        child = os.fork()
        if child == 0:
            os.close(reading)
            if before is not None:
                before()
            here()
            asked = {name: self.answers[name] for name in names if name in self.answers}
            with os.fdopen(writing, "w", encoding="utf-8") as pipe:
                json.dump([asked, self.answers["failures"], self.answers["took"]], pipe, default=str)
            os._exit(0)
        os.close(writing)

        def collect():
            with os.fdopen(reading, encoding="utf-8") as pipe:
                text = pipe.read()
            os.waitpid(child, 0)
            if not text:
                return here()
            answers, failures, took = json.loads(text)
            self.answers.update(answers)
            self.answers["failures"].update(failures)
            self.answers["took"].update(took)
            return True

        return collect
