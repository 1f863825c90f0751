"""Asking the running host: one start of its interpreter for all modules, then real requests over loopback."""

from __future__ import annotations

import ast
import re
import threading
import time
from contextlib import ExitStack
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ....core.errors import Refused
from ....disk.guard import read_content
from ....running.cores import Meanwhile
from ....running.loopback import get, get_until
from ....running.probe import Probe, ProbeFailed, step_in_words
from ....running.scratch import scratch_folder
from ...contract.exchange import StartUp
from ...python.code_errors import is_of_code
from ...python.probing import python_probe
from ...shared.leaving_out import start_without_culprits
from .answers import Live, PageRequest
from .facts import django
from .forms_shown import with_new_forms
from .reading.code import class_named, function_named, permissions_named
from .reading.guards import guard_of_controller

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping, Sequence

    from ....running.loopback import Response
    from .reading.modules import ModuleFiles
    from .view import HostView

ENTRY_SCRIPT = "manage.py"
PROBE = Path(__file__).parent / "probe" / "ask.py"
ALL_STEPS = ("checks", "migrations", "rights", "address_names", "broken_commands", "closer", "pages")
PEOPLE = ("visitor", "signed in", "holder", "staff", "superuser")
AGAIN = "again-"  # before the number of a request that was made once more
FAILING = 400  # statuses from which on a page has not answered as people want it
SERVER_FAILS = 500
UNDRAWN = "undrawn"  # what the probe's log holds beside the requests
FATAL_STEPS = ("setup", "checks", "routes")


#  the steps of a start, and when the host fails where one does
FAILS_WHILE = {
    "entry": "while its entry script runs",
    "settings": "while it loads its settings",
    "databases": "while it reads which databases it has",
    "setup": "while it loads its apps",
    "checks": "while it runs its own checks",
    "routes": "while it loads its addresses",
    "server": "while its server starts",
}


def fails_while(step: str) -> str:
    """Return when the host fails where a step does."""
    return FAILS_WHILE.get(step, f"while it is asked for its {step_in_words(step)}")


class Asking:
    """Asks the running host about modules: its start begins at once, so that files are read while it boots.

    A module that stops the host is told apart and the others are asked again without it, at most MOST_STARTS times;
    a healthy host is started once. Use it as a context manager, so that the host always ends.
    """

    def __init__(
        self,
        view: HostView,
        limit_seconds: float,
        steps: Sequence[str] = ALL_STEPS,
        more: Mapping[str, Any] | None = None,
    ) -> None:
        self.more = dict(more or {})
        self.view = view
        self.limit_seconds = limit_seconds
        own = django(view.data).probe if steps is ALL_STEPS else None
        self.steps = [*steps, *(own.steps if own is not None else ())]
        self._stack = ExitStack()
        self._probe = self._start([])

    def __enter__(self) -> Asking:
        return self

    def __exit__(self, *_: object) -> None:
        self._stack.close()

    def about(self, modules: Sequence[ModuleFiles], while_waiting: Callable[[], object] = lambda: None) -> Live:
        """Return what the host answers about modules; ``while_waiting`` is done as the host starts."""
        first_registry: set[str] | None = None

        def start(left_out: Mapping[str, dict[str, Any]]) -> Live:
            nonlocal first_registry
            if left_out:
                self._stack.close()
                self._probe = self._start(list(left_out))
            live = self._about(modules, while_waiting)
            if not left_out and "registry" in live.answers:
                first_registry = {entry["name"] for entry in live.answers["registry"]}
            return live

        live: Live
        live, stopped = start_without_culprits(start, partial(_culprit, self.view))
        live.stopped, live.first_registry = stopped, first_registry
        return live

    def _start(self, without: list[str]) -> Probe:
        assert self.view.interpreter is not None
        left_out = [
            entry.value
            for entry in (self.view.listed if without else ())
            if any(entry.value == name or entry.value.startswith(f"{name}.apps.") for name in without)
        ]
        question = {
            "entry": ENTRY_SCRIPT,
            "without": left_out,
            "without_urls": [f"{name}.urls" for name in without],
            "scratch": str(self._stack.enter_context(scratch_folder())),
            "steps": self.steps,
            "copies": str(self.view.database_copies or ""),
            **self.more,
        }
        script, shared = _script(self.view)
        probe = python_probe(self.view.interpreter, script, self.view.root, question, self.limit_seconds, shared)
        return self._stack.enter_context(probe)

    def _ask_as(self, live: Live) -> dict[str, dict[str, Any]]:
        """Ask for every page once more as the person that the question is about; by controller."""
        server, person = live.answers.get("server"), live.answers.get("person") or {}
        found: dict[str, dict[str, Any]] = {}
        for route in live.answers.get("routes") or [] if server else []:
            if route.get("path"):
                headers = {"Cookie": person["cookie"]} if person.get("cookie") else {}
                headers |= {"Host": route["host"]} if route.get("host") else {}
                answer = get(server["port"], route["path"], headers, min(self.limit_seconds / 3, 30))  # type: ignore[index]
                found.setdefault(route["view"], _as_seen(route, answer))
        return found

    def _about(self, modules: Sequence[ModuleFiles], while_waiting: Callable[[], object]) -> Live:
        live = Live()
        self._probe.tell({"modules": [module.name for module in modules]})
        while_waiting()
        try:
            live.answers = self._probe.first_answers()
            people = _People(self.view, self._probe)
            requests = _request_all(people, self._probe, live, self.limit_seconds)
            live.forms = self._forms(requests, people)  # while the records behind the pages are there
            without_rows = self._without_rows(live, requests, people)
            live.answers = self._probe.answers()
            if self.more.get("person"):
                live.answers["asked_as"] = self._ask_as(live)
            log = self._probe.finish()
            live.undrawn = log.pop(UNDRAWN, [])
        except ProbeFailed as failed:
            live.failure = f"the host gave no answer {fails_while(failed.step)}: {failed.reason}"
            tail = failed.output.strip().splitlines()[-1:] or ["It printed nothing."]
            live.failure_remedy = f"Last thing it printed: {tail[0][:300]}"
            return live
        for number, (route, who, answer) in requests.items():
            again = without_rows.get(number)
            if again is not None and _counts(route, again, answer, log.get(number, {})):
                answer, number = again, f"{AGAIN}{number}"
            asked = PageRequest(route, who, answer, log.get(number, {"templates": []}))
            live.asked.setdefault(route["module"], []).append(asked)
        return live

    def _forms(
        self, requests: Mapping[str, tuple[dict[str, Any], str, Response]], people: _People
    ) -> list[dict[str, Any]]:
        """Let the host send the forms that its pages show, as those who saw them; returns what is wrong."""
        answered = [((route, who), route["path"], answer) for route, who, answer in requests.values()]
        pages = [
            {
                "path": route["path"],
                "module": route["module"],
                "view": route["view"],
                "host": route.get("host") or "",
                "cookie": "" if who == "visitor" else people.cookies[people.named(route, who)],
            }
            for route, who in with_new_forms(answered)
        ]
        pages += self._for_those_who_may(requests, people)
        if not pages:
            return []
        wrong: list[dict[str, Any]] = (self._probe.ask("forms", pages=pages) or {}).get("wrong", [])
        return wrong

    def _for_those_who_may(
        self, requests: Mapping[str, tuple[dict[str, Any], str, Response]], people: _People
    ) -> list[dict[str, Any]]:
        """Return the pages that anybody sees, and whose templates show more to those who may more."""
        served = [route for route, _, answer in requests.values() if answer.status == 200 and route["module"]]
        asking = {route["module"] for route in served if _asks_who(self.view, route["module"])}
        cookie = people.cookies.get("superuser") if asking else None
        return [
            {
                **{key: route[key] for key in ("path", "module", "view")},
                "host": route.get("host") or "",
                "cookie": cookie,
            }
            for route in served
            if route["module"] in asking and cookie
        ]

    def _without_rows(
        self, live: Live, requests: Mapping[str, tuple[dict[str, Any], str, Response]], people: _People
    ) -> dict[str, Response]:
        """Ask once more for some pages, without the records that were made up; by number of the request.

        They are those that failed, for what such a record holds may not be what the code rightly expects, and those
        whose code takes one row of a table, which is empty in truth.
        """
        if not (live.answers.get("tried") or {}).get("made"):
            return {}
        folders = {_folder(route) for route, _, _ in requests.values() if route.get("file")}
        fragile = {folder for folder in folders if _takes_one_row(folder)}
        doubtful = {
            number: (route, who)
            for number, (route, who, answer) in requests.items()
            if _is_doubtful(route, answer) or (not route.get("needs") and _folder(route) in fragile)
        }
        if not doubtful:
            return {}
        port = live.answers["server"]["port"]
        self._probe.ask("forget_rows")
        found = {}
        for number, (route, who) in doubtful.items():
            headers = {"X-Sprout-Request": f"{AGAIN}{number}", "Accept": "text/html,*/*"}
            headers |= {"Host": route["host"]} if route.get("host") else {}
            if who != "visitor":
                headers["Cookie"] = people.cookies[people.named(route, who)]
            found[number] = get(port, route["path"], headers, min(self.limit_seconds / 3, 30))
        return found


def _asks_who(view: HostView, name: str) -> bool:
    """True for a module of which a template asks what the person may do."""
    module = view.module(name)
    return module is not None and any(template.rights for template in module.templates)


def _folder(route: Mapping[str, Any]) -> Path:
    return Path(route["file"] or "/").parent


def _is_doubtful(route: Mapping[str, Any], answer: Response) -> bool:
    """True for a page that failed, and may have done so because of what a made up record holds."""
    if route.get("made_up"):
        return answer.status >= SERVER_FAILS
    return not route.get("needs") and answer.status >= FAILING


#  code that takes one row of a table, as if there always were one
_ONE_ROW = re.compile(rb"\.(?:first|last|latest|earliest)\(\)")


def _takes_one_row(folder: Path) -> bool:
    """True where the code of a folder may break when a table is empty."""
    for path in sorted(folder.glob("*.py")):
        try:
            if _ONE_ROW.search(read_content(str(path))):
                return True
        except OSError:
            continue
    return False


def _counts(route: Mapping[str, Any], again: Response, answer: Response, entry: Mapping[str, Any]) -> bool:
    """True where the answer without made up records is the one that counts.

    again -- the answer without them; ``answer`` is the first one
    entry -- what the host's log tells of the first request
    """
    if answer.status < FAILING:
        return again.status >= SERVER_FAILS
    error = entry.get("error")
    if error is None or again.status >= answer.status:
        return again.status < answer.status
    #  in a package's own code it is the record that is at fault: the package would have made another one
    of_package = not route["module"] and not error["place"]
    return of_package or not (is_of_code(error) or (entry.get("missing") and _reverses_nothing(error)))


def _reverses_nothing(error: Mapping[str, Any]) -> bool:
    """True for an address that a template asks for with an empty argument."""
    last = error["chain"][-1]
    return last["kind"] == "NoReverseMatch" and "''" in str(last["text"])


def _script(view: HostView) -> tuple[Path, list[Path]]:
    """Return the script that asks the host, and the folders of what it imports; a kit that builds on this has one."""
    own = django(view.data).probe
    return (view.data.folder / own.script, [PROBE.parent]) if own is not None else (PROBE, [])


def copy_databases(view: HostView, folder: Path, limit_seconds: float) -> None:
    """Copy the host's databases into a folder, reading only; raises Refused when one is no file to copy."""
    assert view.interpreter is not None
    question = {"entry": ENTRY_SCRIPT, "without": [], "without_urls": [], "scratch": str(folder), "steps": []}
    with python_probe(view.interpreter, PROBE, view.root, question, limit_seconds) as probe:
        probe.tell({"modules": []})
        try:
            databases = probe.answers().get("databases") or {}
        except ProbeFailed:
            return  # a host that does not start is told by the check of the copy
    for alias, database in databases.items():
        if not database["copied"]:
            raise Refused(
                "database-not-copied",
                f"The database {alias} ({database['engine']}) is no file that a sandbox could copy; nothing was run.",
                "Check the real set-up without --sandbox.",
            )


def _as_seen(route: dict[str, Any], answer: Response) -> dict[str, Any]:
    """Describe one answer by what a person sees of it."""
    return {
        "path": route["path"],
        "status": answer.status,
        "view": answer.headers.get("x-sprout-view", ""),
        "location": answer.headers.get("location", ""),
        "bytes": len(answer.body),
    }


def _request_all(
    people: _People, probe: Probe, live: Live, limit_seconds: float
) -> dict[str, tuple[dict[str, Any], str, Response]]:
    """Ask for every page that can be called; where the host is served twice, each module's pages by one of both."""
    server = live.answers.get("server")
    if not server:
        return {}
    routes = [
        route
        for route in live.answers.get("routes") or []
        if route.get("path") and (not route["methods"] or "GET" in route["methods"])
    ]
    routes += [_page_of_host(path) for path in live.answers.get("host_pages") or []]
    people.asks_for(routes)
    #  the host must still be let go, and say what it has noted of the requests
    deadline = time.monotonic() + max(probe.seconds_left - min(limit_seconds / 5, 10), 0.5)
    ports = server["ports"]
    places = {name: number % len(ports) for number, name in enumerate(dict.fromkeys(one["module"] for one in routes))}
    dealt: list[list[dict[str, Any]]] = [[] for _ in ports]
    for route in routes:
        dealt[places[route["module"]]].append(route)
    asking = [
        Meanwhile(partial(_request, dealt[number], port, f"{number}-", people, limit_seconds, deadline))
        for number, port in enumerate(ports[1:], 1)
    ]
    requests = _request(dealt[0], ports[0], "", people, limit_seconds, deadline)
    for others in asking:
        requests |= others.result()
    _ask_for_login(live, requests, server["port"])
    return requests


def _page_of_host(path: str) -> dict[str, Any]:
    """Return the route of a page that belongs to no module: whether it answers at all is asked of a visitor."""
    return {"module": "", "path": path, "view": "", "methods": [], "file": None, "line": 0, "people": ["visitor"]}


class _People:
    """Those who ask, made by the host when the first page turns visitors away; ``cookies`` signs each in."""

    def __init__(self, view: HostView, probe: Probe) -> None:
        self._view, self._probe = view, probe
        self._routes: Sequence[dict[str, Any]] = ()
        self._cookies: dict[str, str] | None = None
        self._asking = threading.Lock()

    def asks_for(self, routes: Sequence[dict[str, Any]]) -> None:
        """Tell which pages they will ask for."""
        self._routes = routes

    def named(self, route: Mapping[str, Any], who: str) -> str:
        """Return under which name somebody who asks for a page is signed in."""
        return f"holder of {route['permission']}" if who == "holder" else who

    @property
    def cookies(self) -> dict[str, str]:
        with self._asking:
            if self._cookies is None:  # only now the code is asked which permissions there are
                for one in self._routes:
                    one["permission"] = one.get("permission") or permission_of(self._view, one["view"])
                named = sorted({one["permission"] for one in self._routes} - {""})
                self._cookies = self._probe.ask("people", permissions=named) or {}
            return self._cookies


def _request(
    routes: Sequence[dict[str, Any]],
    port: int,
    prefix: str,
    people: _People,
    limit_seconds: float,
    deadline: float,
) -> dict[str, tuple[dict[str, Any], str, Response]]:
    """Ask a server for pages: as a visitor first, then as those who may more, until one may.

    prefix   -- what the numbers of the requests begin with, by which the host's log tells them
    deadline -- the moment of the steady clock after which no page is asked for any more
    """
    requests: dict[str, tuple[dict[str, Any], str, Response]] = {}
    for route in routes:
        for who in route.get("people") or PEOPLE:
            number = f"{prefix}{len(requests) + 1}"
            headers = {"X-Sprout-Request": number, "Accept": "text/html,*/*"}
            headers |= {"Host": route["host"]} if route.get("host") else {}
            if who != "visitor":
                cookies = people.cookies
                named = people.named(route, who)
                if named not in cookies:
                    continue
                headers["Cookie"] = cookies[named]
            answer = get_until(port, route["path"], headers, min(limit_seconds / 3, 30), deadline)
            requests[number] = (route, who, answer)
            if not _turned_away(answer):
                break
    return requests


def permission_of(view: HostView, controller: str) -> str:
    """Return the one permission that a controller's guard names; empty when it names none or several.

    The guard stands in the controller's own file, or in the config class of its module.
    """
    guard = guard_of_controller(view, controller)
    if guard is not None:
        rights = {right for right in guard.rights if "." in right}
        return rights.pop() if len(rights) == 1 else ""
    module, _, name = controller.rpartition(".")
    path = view.project.file_of(module)
    source = view.project.parse(path) if path is not None else None
    if source is None or source.tree is None:
        return ""
    node = class_named(source.tree, name) or function_named(source.tree, name)
    if node is None:
        return ""
    found = {said.text for said in permissions_named(ast.Module([node], []))}
    return found.pop() if len(found) == 1 else ""


def _turned_away(answer: Response) -> bool:
    return answer.status in (301, 302, 303, 307, 308, 401, 403)


def _ask_for_login(live: Live, requests: dict[str, tuple[dict[str, Any], str, Response]], port: int) -> None:
    """Look once whether the page exists that visitors are sent to."""
    for _, who, answer in requests.values():
        target = answer.headers.get("location", "").partition("?")[0]
        login = str((live.answers.get("settings") or {}).get("login", ""))
        if who == "visitor" and target and target == login:
            live.login_served = get(port, target, {}, 30).status != 404  # one that fails is there, and told of itself
            return


def _culprit(view: HostView, live: Live, known: Mapping[str, Any]) -> tuple[str, dict[str, Any]] | None:
    """Return the listed module whose own files stopped the host in a fatal step, with the error; None when none did."""
    for step in FATAL_STEPS:
        error = live.failures.get(step)
        if error is None:
            continue
        for place in reversed(places_of(error)):
            for module in view.modules:
                inside = place[0].startswith(str(module.folder.resolve()) + "/")
                if inside and module.name not in known:
                    return module.name, {**error, "step": step}
    return None


def places_of(error: dict[str, Any]) -> list[tuple[str, int]]:
    """Return the places in the host's own files that an error passed through, the deepest last."""
    found: list[tuple[str, int]] = []
    for one in reversed(error["chain"]):
        found += [(frame["file"], frame["line"]) for frame in one["frames"]]
        if one.get("file"):
            found.append((one["file"], one.get("line") or 1))
    return found


def last_place(error: dict[str, Any], folder: Path) -> tuple[Path, int] | None:
    """Return the deepest place of an error inside a folder."""
    inside = [place for place in places_of(error) if place[0].startswith(str(folder.resolve()) + "/")]
    return (Path(inside[-1][0]), inside[-1][1]) if inside else None


def said(error: dict[str, Any]) -> str:
    """Spell an error in one line: kind and text of the first cause."""
    first = error["chain"][-1] if error["chain"][0]["kind"] in ("ImproperlyConfigured",) else error["chain"][0]
    text = " ".join(first["text"].split())
    return f"{first['kind']}: {text[:200]}" if text else first["kind"]


ERROR_LEVEL = 40  # django.core.checks.ERROR (Django 5.2): the host's own commands refuse to go on from there


def start_up(view: HostView, limit_seconds: float) -> StartUp:
    """Start the host once with its own checks, which load the table of addresses."""
    if view.interpreter is None:
        return StartUp(False)
    with Asking(view, limit_seconds, ("checks",)) as asking:
        live = asking.about([])
    failures = [live.failure] if live.failure else []
    failures += [f"{name} stops it: {said(error)}" for name, error in live.stopped.items()]
    failures += [f"the host fails {fails_while(step)}: {said(error)}" for step, error in live.failures.items()]
    for message in live.answers.get("checks") or ():
        if message["level"] >= ERROR_LEVEL:
            failures.append(f"{message['object']}: {message['text']}".removeprefix(": "))
    names = frozenset(entry["name"] for entry in live.answers.get("registry") or ())
    return StartUp(True, tuple(failures), names if not live.stopped else names | frozenset(live.stopped))
