"""What is asked of the running host's pages: those of modules, those that others have, and what it called inside."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any

from .....running.cores import Meanwhile
from ..asking import Fatal, watched_of
from ..reading.routes import pages_of
from ..requesting import EVERYTHING, Page, Pages
from .examination import Request

if TYPE_CHECKING:
    from ..asking import AskedHost
    from ..php import Php
    from ..reading.modules import ModuleFiles
    from ..view import HostView

MANY_MODULES = 6  # for which a second server pays
#  an address that no host has
ABSENT = "/there-is-no-page-of-this-name/"


def ask_pages(
    view: HostView, php: Php, modules: Sequence[ModuleFiles], left_out: Mapping[str, Fatal], limit_seconds: float
) -> dict[str, list[Request]]:
    """Ask for the pages of modules that are on: as visitor, and as administrator where visitors may not see them.

    PHP's own server works on one request at a time: of many modules, a second one has half.
    """
    wanted = {
        module.name: addresses
        for module in modules
        if view.is_on(module) and module.name not in left_out and (addresses := _addresses(module))
    }
    without = [module.key for module in view.modules if module.name in left_out]

    def ask(names: Sequence[str]) -> dict[str, list[Request]]:
        return _ask_some(view, php, {name: wanted[name] for name in names}, without, limit_seconds)

    names = list(wanted)
    if len(names) < MANY_MODULES:
        return ask(names)
    other = Meanwhile(lambda: ask(names[1::2]))
    return ask(names[::2]) | other.result()


def _ask_some(
    view: HostView,
    php: Php,
    wanted: Mapping[str, list[tuple[str, bool]]],
    without: Sequence[str],
    limit_seconds: float,
) -> dict[str, list[Request]]:
    found: dict[str, list[Request]] = {name: [] for name in wanted}
    if not found:
        return found
    with Pages(view, php, limit_seconds, without) as pages:
        for name, addresses in wanted.items():
            for path, exact in addresses:
                found[name].append(Request("page", path, "visitor", pages.get(path), exact))
                if _turned_away(found[name][-1]):
                    found[name].append(Request("page", path, "administrator", pages.get(path, (EVERYTHING,)), exact))
    return found


def _turned_away(request: Request) -> bool:
    answer = request.answer
    signing_in = answer.status in (301, 302) and "wp-login.php" in answer.headers.get("location", "")
    return answer.status in (401, 403) or signing_in


def _addresses(module: ModuleFiles) -> list[tuple[str, bool]]:
    """Return the addresses that are asked for of a module, and whether nothing of each was made up."""
    found: list[tuple[str, bool]] = []
    for page in pages_of(module):
        if page.path:
            found.append((page.path, True))
        elif (made := _made_up(page.rule)) and "/" in made.strip("/"):
            found.append((made, False))
    return list(dict.fromkeys(found))


def told_inside(modules: Sequence[ModuleFiles], asked: AskedHost) -> dict[str, list[Request]]:
    """Return endpoints and screens as requests, which the loaded host called by itself."""
    found: dict[str, list[Request]] = {}
    files = {route["route"]: route["answers"]["file"] for route in asked.boot.answers.get("rest") or []}
    for told in asked.boot.answers.get("calls") or []:
        request = Request("endpoint", f"/wp-json{told['0']}", told["1"], _page(told), True)
        found.setdefault(files.get(told["0"], ""), []).append(request)
    for slug, told in (asked.answers.get("screen") or {}).items():
        base = told["parent"] if str(told["parent"]).endswith(".php") else "admin.php"
        request = Request("screen", f"/wp-admin/{base}?page={slug}", "administrator", _page(told), True)
        found.setdefault(told["file"], []).append(request)
    return {
        module.name: [
            request
            for file, requests in found.items()
            if file == str(module.place) or file.startswith(f"{module.place}/")
            for request in requests
        ]
        for module in modules
    }


def _page(told: Mapping[str, Any]) -> Page:
    fatal = Fatal(*told["fatal"]) if told.get("fatal") else None
    ended = "it ends the request before it is drawn" if told.get("ended") else ""
    body = str(told.get("said", ""))
    return Page(
        int(told.get("status", 0)), {}, body, float(told.get("seconds", 0)), [], True, watched_of({}), fatal, ended
    )


def _made_up(rule: str) -> str:
    """Return an address that a rule with changing parts matches, with 1 in their places; empty when not sure."""
    text = re.sub(r"/\?\$$", "", rule.lstrip("^"))
    text = re.sub(r"\((\[0-9\]|\\d|\[\^/\]|\[a-z0-9-\])[+*]?(\{\d+\})?\)", "1", text).replace("\\", "")
    return "" if re.search(r"[()\[\]*+?{|^$]", text) else f"/{text.strip('/')}/"


def ask_carried(
    view: HostView, php: Php, modules: Sequence[ModuleFiles], asked: AskedHost, limit_seconds: float
) -> dict[str, list[Request]]:
    """Ask for what the running host says that modules carry: archive and one page of each content type.

    Pages whose text holds a shortcode or a block of a module are asked for as well.
    """
    wanted: dict[str, list[tuple[str, tuple[str, int]]]] = {}
    for told in asked.boot.answers.get("types") or []:
        addresses = [told[key] for key in ("archive", "one") if told[key]] if told["seen"] else []
        _want(wanted, modules, told["file"], addresses, told["line"])
    written = asked.boot.answers.get("written") or {}
    places = asked.boot.answers.get("places") or {}
    for name, held in (places.get("shortcodes") or {}).items():
        _want(wanted, modules, held["file"], [written[name]] if name in written else [], held["line"])
    for name, held in (places.get("blocks") or {}).items():
        _want(wanted, modules, held["draws"]["file"], [written[name]] if name in written else [], held["draws"]["line"])
    without = [module.key for module in view.modules if module.name in asked.left_out]
    found: dict[str, list[Request]] = {}
    if not wanted:
        return found
    with Pages(view, php, limit_seconds, without) as pages:
        answers: dict[str, Page] = {}
        for module, addresses in wanted.items():
            for path, place in dict(addresses).items():
                answers[path] = answers[path] if path in answers else pages.get(path, watched=True)
                found.setdefault(module, []).append(Request("page", path, "visitor", answers[path], True, place))
    return found


def _want(
    wanted: dict[str, list[tuple[str, tuple[str, int]]]],
    modules: Sequence[ModuleFiles],
    file: str,
    addresses: Sequence[str],
    line: int,
) -> None:
    for module in modules:
        if addresses and (file == str(module.place) or file.startswith(f"{module.place}/")):
            wanted.setdefault(module.name, []).extend((path, (file, line)) for path in addresses)


def ask_around(view: HostView, php: Php, asked: AskedHost, limit_seconds: float) -> list[Request]:
    """Ask for pages that are no module's own: the front page, one that people wrote, one that is absent, signing in."""
    ordinary = asked.boot.answers.get("ordinary") or ""
    paths = [("/", "visitor"), (ordinary, "visitor"), (ABSENT, "visitor"), ("/wp-login.php", "visitor")]
    if asked.administration is not None:
        paths.append(("/wp-admin/index.php", "administrator"))
    without = [module.key for module in view.modules if module.name in {**asked.left_out, **asked.left_out_there}]
    with Pages(view, php, limit_seconds, without) as pages:
        return [
            Request(
                "around",
                path,
                who,
                pages.get(path, (EVERYTHING,) if who == "administrator" else (), watched=True),
                True,
            )
            for path, who in paths
            if path
        ]
