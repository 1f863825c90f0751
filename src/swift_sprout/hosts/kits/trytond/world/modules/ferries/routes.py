import html

from trytond.protocols.wrappers import Response, with_pool, with_transaction
from trytond.routing import Route, Router, Rule


class Ferries(Router):
    __name__ = "ferries"

    @classmethod
    def __setup__(cls):
        super().__setup__()
        cls.__routes__["timetable"] = Route(
            Rule("timetable", methods={"GET"}),
            decorators=[with_pool, with_transaction()],
        )

    @classmethod
    def timetable(cls, request, pool):
        sailings = pool.get("ferries.sailing").search([], order=[("leaves_at", "ASC")])
        rows = "".join(f"<li>{one.leaves_at:%H:%M} to {html.escape(one.landing)}</li>" for one in sailings)
        return Response(f"<h1>Ferry timetable</h1><ul>{rows}</ul>", content_type="text/html; charset=utf-8")
