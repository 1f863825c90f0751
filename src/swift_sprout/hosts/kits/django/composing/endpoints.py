"""JSON endpoints."""

from __future__ import annotations

from .....core.brief import Brief
from .....core.parts.pages import Endpoint
from .....core.parts.records import Record
from ....shared.rendering import python_text
from .pages import class_stem, route_of
from .shared import Site, Values, permission_of

#  what is answered at the address of the list, and at that of one record
_METHODS = {"List": ("get", "post"), "One": ("get", "put", "delete")}
_RIGHT = {"post": "add", "put": "change", "delete": "delete"}


def endpoint_values(brief: Brief, records: dict[str, Values], site: Site) -> list[Values]:
    """Return the values that templates take of the endpoints."""
    space = site.space(brief.name.snake)
    found = []
    for endpoint in brief.endpoints:
        record = brief.record(endpoint.shows)
        assert record is not None
        stem = "_".join(endpoint.words)
        name = stem.replace("_", "-")
        route = route_of(site.own(endpoint.path))
        view = f"{class_stem(stem)}Endpoint"
        of_parts = {
            "List": {"route": route, "route_view": view, "route_name": name},
            "One": {"route": f"{route}<int:pk>/", "route_view": view, "route_name": f"{name}-one"},
        }
        routes = {part: of_parts[part] for part, methods in _METHODS.items() if {*methods} & {*endpoint.methods}}
        rest = _rest_views(endpoint, class_stem(stem), _rights(brief, endpoint, record)) if site.rest else []
        found.append(
            {
                "endpoint_view": view,
                "endpoint_title": endpoint.title,
                "endpoint_reverse": f"{space}{name}",
                "endpoint_one_reverse": f"{space}{name}-one",
                "endpoint_routes": [{**routes[one["part"]], "route_view": one["rest_view"]} for one in rest]
                if site.rest
                else list(routes.values()),
                "rest": site.rest,
                "turned_away": "(401, 403)" if site.rest else "401",  # which of both, the host's authentication says
                "rest_views": rest,
                "serialized": python_text(["id", *(field.name for field in record.fields)]),
                "allowed": python_text(
                    [*endpoint.methods, *(["head"] if "get" in endpoint.methods else []), "options"]
                ),
                "has_rights": bool(_rights(brief, endpoint, record)),
                "rights": _rights(brief, endpoint, record),
                "staff_only": endpoint.access == "staff",
                "open_to_visitors": endpoint.access == "anyone" and "get" in endpoint.methods,
                "answers_get": "get" in endpoint.methods,
                "creates": "post" in endpoint.methods,
                "replaces": "put" in endpoint.methods,
                "deletes": "delete" in endpoint.methods,
                "keeps": "post" in endpoint.methods or "put" in endpoint.methods,
                **records[record.name.camel],
            }
        )
    return found


#  the methods of a list and of one record, with the classes of Django REST framework that answer them (3.15)
_OF_LIST = {("get", "post"): "ListCreate", ("get",): "List", ("post",): "Create"}
_OF_ONE = {"get": "Retrieve", "put": "Update", "delete": "Destroy"}


def _rest_views(endpoint: Endpoint, stem: str, rights: list[Values]) -> list[Values]:
    """Return the classes of views that answer an endpoint: one for the list, one for a single record."""
    found = []
    for part, offered in _METHODS.items():
        methods = tuple(one for one in offered if one in endpoint.methods)
        if methods:
            own = [one for one in rights if one["method"].lower() in methods]
            bases = _OF_LIST[methods] if part == "List" else _of_one(methods)
            heads = ["head"] if "get" in methods else []
            found.append(
                {
                    "rest_view": f"{stem}{part}Endpoint",
                    "part": part,
                    "bases": ", ".join(f"generics.{base}APIView" for base in bases.split()),
                    "allowed": python_text([*methods, *heads, "options"]),
                    "rights": own,
                    "has_rights": bool(own),
                }
            )
    return found


def _of_one(methods: tuple[str, ...]) -> str:
    joined = "".join(_OF_ONE[method] for method in methods)
    return "Update Destroy" if joined == "UpdateDestroy" else joined  # of these two there is no class


def _rights(brief: Brief, endpoint: Endpoint, record: Record) -> list[Values]:
    """Return, for each method that not everybody may use, the permissions that it asks for."""
    found = []
    for method in endpoint.methods:
        needed = [permission_of(brief, endpoint.access)]
        if method in _RIGHT:
            needed.append(f"{_RIGHT[method]}_{record.name.camel.lower()}")
        elif endpoint.access == "anyone":
            continue
        spelled = tuple(f"{brief.name.snake}.{one}" for one in dict.fromkeys(needed) if one)
        found.append({"method": method.upper(), "needed": python_text(spelled)})
    return found
