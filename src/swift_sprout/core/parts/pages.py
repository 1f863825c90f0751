"""Pages for people and endpoints for programs."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from typing import TYPE_CHECKING, Any, NamedTuple

from ..errors import WrongUse
from ..nearest import did_you_mean
from .kinds import Contradiction, Kind, no_record
from .lines import read_line
from .rights import same_name

if TYPE_CHECKING:
    from ..brief import Brief

VIEWS = ("list and one", "list", "one", "form")
METHODS = ("get", "post", "put", "delete")
PARAMETER_TYPES = ("text", "integer", "slug", "uuid")
_SEGMENT = r"[a-z0-9][a-z0-9._-]*|\{[a-z][a-z0-9_]*(?:: ?[a-z]+)?\}"
_PARAMETER = re.compile(r"\{([a-z][a-z0-9_]*)(?:: ?([a-z]+))?\}")


class Parameter(NamedTuple):
    """A part of an address that changes from call to call; ``type`` is one of PARAMETER_TYPES."""

    name: str
    type: str


class Page(NamedTuple):
    """An address that visitors call.

    path    -- absolute, with a leading slash and without a trailing one; ``/`` alone is the root; ``{number: integer}``
               stands for a parameter
    shows   -- the name of a record that the page is about; empty for a plain page
    access  -- ``anyone``, ``signed in``, ``staff``, ``may read|create|change|delete RECORD`` or ``may PERMISSION``
    view    -- for a page that shows a record: one of VIEWS
    also    -- further paths that lead to the same page
    methods -- the methods that a plain page answers
    """

    path: str
    title: str
    text: str = ""
    shows: str = ""
    access: str = "anyone"
    view: str = "list and one"
    also: tuple[str, ...] = ()
    methods: tuple[str, ...] = ("get",)

    @property
    def key(self) -> str:
        """What tells it from other pages."""
        return self.path

    @property
    def words(self) -> tuple[str, ...]:
        """The words of the address, for names of controllers and templates."""
        return path_words(self.path)

    @property
    def parameters(self) -> list[Parameter]:
        """The parameters of the address."""
        return parameters_of(self.path)


class Endpoint(NamedTuple):
    """An address that programs call and that answers JSON: a record's list, and one record below it.

    access -- who may read; whoever writes needs the record's own right to create, change or delete as well
    """

    path: str
    title: str
    shows: str
    access: str = "anyone"
    methods: tuple[str, ...] = ("get",)

    @property
    def key(self) -> str:
        """What tells it from other endpoints."""
        return self.path

    @property
    def words(self) -> tuple[str, ...]:
        """The words of the address."""
        return path_words(self.path)


def path_words(path: str) -> tuple[str, ...]:
    """Return the words of an address, without the types of its parameters."""
    return tuple(re.findall(r"[a-z0-9]+", _PARAMETER.sub(r"\1", path))) or ("home",)


def parameters_of(path: str) -> list[Parameter]:
    """Return the parameters of an address."""
    return [Parameter(name, kind or "text") for name, kind in _PARAMETER.findall(path)]


def clean_path(path: str) -> str:
    """Return an address in its one spelling; raises WrongUse."""
    plain = "/" + path.strip().strip("/")
    if not re.fullmatch(rf"/|(/(?:{_SEGMENT}))+", plain):
        raise WrongUse(
            "page-path",
            f"A page cannot have the path {path!r}.",
            "Use lower-case letters, digits, hyphens and slashes, such as /tides/today; "
            "a parameter is written /berths/{number: integer}.",
        )
    names = [parameter.name for parameter in parameters_of(plain)]
    for parameter in parameters_of(plain):
        if parameter.type not in PARAMETER_TYPES:
            raise WrongUse(
                "page-path",
                f"The path {path!r} has a parameter of the unknown type {parameter.type!r}.",
                did_you_mean(parameter.type, PARAMETER_TYPES),
            )
    if len(set(names)) != len(names):
        raise WrongUse("page-path", f"The path {path!r} has two parameters of one name.", "Rename one.")
    return plain


def make_page(path: str, title: str = "", text: str = "", shows: str = "", access: str = "", **more: Any) -> Page:
    """Make a page from what was given; the title follows from the path when there is none. Raises WrongUse.

    access -- empty for the usual: anyone; for a form, who may create or change the record
    """
    plain = clean_path(path)
    title = title.strip() or " ".join(path_words(plain)).capitalize()
    view = " ".join(more.get("view", VIEWS[0]).split())
    if view not in VIEWS:
        raise WrongUse("page-view", f"A page cannot be viewed as {view!r}.", did_you_mean(view, VIEWS))
    if not access:
        verb = "change" if parameters_of(plain) else "create"
        access = f"may {verb} {shows}" if view == "form" and shows else "anyone"
    also = tuple(clean_path(other) for other in more.get("also", ()))
    return Page(plain, title, text, shows, clean_access(access), view, also, _methods(more.get("methods", ("get",))))


def _methods(said: Any) -> tuple[str, ...]:
    given = [word.lower() for text in said for word in text.split()]
    for method in given:
        if method not in METHODS:
            raise WrongUse("page-method", f"{method!r} is no method of a page.", did_you_mean(method, METHODS))
    return tuple(method for method in METHODS if method in given) or ("get",)


def clean_access(text: str) -> str:
    """Return an access in its one spelling; raises WrongUse."""
    plain = " ".join(text.replace("-", " ").split())
    if plain in ("anyone", "signed in", "staff") or re.fullmatch(r"may \S.*", plain):
        return plain
    raise WrongUse(
        "page-access",
        f"Access {text!r} is not known.",
        "Say anyone, signed in, staff, may read|create|change|delete RECORD, or may PERMISSION.",
    )


def needed_right(brief: Brief, access: str) -> tuple[str, str] | None:
    """Return what an access of ``may …`` asks for: verb and record, or a permission's name with an empty record."""
    if not access.startswith("may "):
        return None
    verb, _, rest = access[4:].partition(" ")
    if verb in ("read", "create", "change", "delete") and brief.record(rest):
        return verb, rest
    return access[4:], ""


def access_against(brief: Brief, access: str, who: str) -> Iterator[Contradiction]:
    """Yield what contradicts an access: a record or a permission that the brief does not have."""
    right = needed_right(brief, access)
    if right is None or right[1] or any(same_name(one.name.title, right[0]) for one in brief.permissions):
        return
    verb, _, rest = access[4:].partition(" ")
    if verb in ("read", "create", "change", "delete"):
        yield from no_record(brief, "access", rest, who)
    else:
        known = [one.name.title for one in brief.permissions]
        yield Contradiction(
            "access", f"{who} names the permission {right[0]!r}, which does not exist", did_you_mean(right[0], known)
        )


def _page_data(page: Page) -> dict[str, Any]:
    data: dict[str, Any] = {"path": page.path, "title": page.title}
    for key in ("text", "shows", "access", "view", "also", "methods"):
        value = getattr(page, key)
        if value != Page._field_defaults[key] or (key == "access" and page.view == "form"):
            data[key] = list(value) if isinstance(value, tuple) else value
    return data


_counted: list[tuple[Brief, Counter[str]]] = []  # the brief that was counted last: there may be very many pages


def _path_counts(brief: Brief) -> Counter[str]:
    """Return how often each path stands in a brief."""
    if not _counted or _counted[0][0] is not brief:
        paths = [one for other in brief.pages for one in (other.path, *other.also)]
        _counted[:] = [(brief, Counter([*paths, *(other.path for other in brief.endpoints)]))]
    return _counted[0][1]


def _page_against(page: Page, brief: Brief) -> Iterator[Contradiction]:
    who = f"the page {page.path}"
    yield from no_record(brief, "shows", page.shows, who)
    yield from access_against(brief, page.access, who)
    counts = _path_counts(brief)
    for path in sorted({one for one in (page.path, *page.also) if counts[one] > 1}):
        yield Contradiction("path", f"the path {path} is there twice", "Change one.")
    if not page.shows and page.view != VIEWS[0]:
        yield Contradiction("view", f"{who} has the view {page.view!r} but shows no record", "Add shows = …")
    if page.shows and page.methods != ("get",):
        yield Contradiction("methods", f"{who} shows a record: its methods follow from its view", "Leave methods out.")
    here = page.parameters
    if page.shows and page.view in ("list", "list and one") and here:
        yield Contradiction("path", f"{who} lists records: its path can have no parameter", "Take the parameter out.")
    if page.shows and page.view in ("one", "form") and (len(here) > 1 or any(one.type != "integer" for one in here)):
        yield Contradiction(
            "path",
            f"{who} is about one record: its path has at most one parameter, an integer",
            "Write {number: integer}.",
        )
    for other in page.also:
        if parameters_of(other) != here:
            yield Contradiction("also", f"{other} has not the parameters of {page.path}", "Give both the same.")


def _endpoint_against(endpoint: Endpoint, brief: Brief) -> Iterator[Contradiction]:
    who = f"the endpoint {endpoint.path}"
    yield from no_record(brief, "shows", endpoint.shows, who)
    yield from access_against(brief, endpoint.access, who)
    paths = [one.path for one in brief.endpoints] + [one for other in brief.pages for one in (other.path, *other.also)]
    if paths.count(endpoint.path) > 1:
        yield Contradiction("path", f"the path {endpoint.path} is there twice", "Change one.")
    if parameters_of(endpoint.path):
        yield Contradiction("path", f"{who} lists records: its path can have no parameter", "Take the parameter out.")


def _make_page(entry: dict[str, Any]) -> Page:
    return make_page(**entry)


def _make_endpoint(entry: dict[str, Any]) -> Endpoint:
    plain = clean_path(entry["path"])
    title = entry.get("title", "").strip() or " ".join(path_words(plain)).capitalize()
    access = clean_access(entry.get("access", "anyone"))
    return Endpoint(plain, title, entry["shows"], access, _methods(entry.get("methods", ("get",))))


def _endpoint_data(endpoint: Endpoint) -> dict[str, Any]:
    data: dict[str, Any] = {"path": endpoint.path, "title": endpoint.title, "shows": endpoint.shows}
    if endpoint.access != "anyone":
        data["access"] = endpoint.access
    if endpoint.methods != ("get",):
        data["methods"] = list(endpoint.methods)
    return data


_PAGE = {
    "path": "text",
    "title": "text",
    "text": "text",
    "shows": "text",
    "access": "text",
    "view": "text",
    "also": "list",
    "methods": "list",
}
_ENDPOINT = {"path": "text", "title": "text", "shows": "text", "access": "text", "methods": "list"}

MAKES = {
    "page": Kind(
        "page",
        _PAGE,
        ("path",),
        _make_page,
        _page_data,
        _page_against,
        "/berths: Our berths, shows Berth, access may read Berth",
        lambda text: read_line("page", "path", "title", _PAGE, text),
    ),
    "endpoint": Kind(
        "endpoint",
        _ENDPOINT,
        ("path", "shows"),
        _make_endpoint,
        _endpoint_data,
        _endpoint_against,
        "/api/berths: Berths, shows Berth, access anyone",
        lambda text: read_line("endpoint", "path", "title", _ENDPOINT, text),
    ),
}
