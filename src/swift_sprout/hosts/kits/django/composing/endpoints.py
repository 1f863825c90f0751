"""JSON endpoints."""

from __future__ import annotations

from .....core.brief import Brief
from .....core.parts.pages import Endpoint
from .....core.parts.records import Record
from ....shared.rendering import python_text
from .pages import class_stem, route_of
from .shared import Site, Values, permission_of

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
        found.append(
            {
                "endpoint_view": view,
                "endpoint_title": endpoint.title,
                "endpoint_reverse": f"{space}{name}",
                "endpoint_one_reverse": f"{space}{name}-one",
                "endpoint_routes": [
                    {"route": route, "route_view": view, "route_name": name},
                    {"route": f"{route}<int:pk>/", "route_view": view, "route_name": f"{name}-one"},
                ],
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
