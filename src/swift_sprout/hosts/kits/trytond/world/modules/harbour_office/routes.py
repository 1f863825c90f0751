import html

from trytond.protocols.wrappers import Response, with_pool, with_transaction
from trytond.routing import Route, Router, Rule


class Office(Router):
    __name__ = "harbour_office"

    @classmethod
    def __setup__(cls):
        super().__setup__()
        cls.__routes__["front_page"] = Route(
            Rule("", methods={"GET"}),
            decorators=[with_pool, with_transaction()],
        )

    @classmethod
    def front_page(cls, request, pool):
        notices = pool.get("harbour_office.notice").search([])
        rows = "".join(f"<li>{html.escape(one.title)}</li>" for one in notices)
        return Response(f"<h1>Harbour office</h1><ul>{rows}</ul>", content_type="text/html; charset=utf-8")
