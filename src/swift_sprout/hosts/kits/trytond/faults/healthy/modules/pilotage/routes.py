from pathlib import Path

from genshi.template import TemplateLoader
from trytond.protocols.wrappers import Response, abort, with_pool, with_transaction
from trytond.routing import Route, Router, Rule
from trytond.wsgi import app

TEMPLATES = TemplateLoader(str(Path(__file__).parent / "templates"))


def draw(template, **values):
    text = TEMPLATES.load(template).generate(**values).render("html", doctype="html5")
    return Response(text, content_type="text/html; charset=utf-8")


class Pilotage(Router):
    __name__ = "pilotage"

    @classmethod
    def __setup__(cls):
        super().__setup__()
        cls.__routes__.update(
            {
                "pilots": Route(
                    Rule("", methods={"GET"}),
                    decorators=[with_pool, with_transaction()],
                ),
                "boat": Route(
                    Rule("boats/<name>", methods={"GET"}),
                    decorators=[with_pool, with_transaction()],
                ),
                "plan": Route(
                    Rule("plan", methods={"GET"}),
                    decorators=[app.auth_required, with_pool, with_transaction(user="request")],
                ),
            }
        )

    @classmethod
    def pilots(cls, request, pool):
        pilots = pool.get("pilotage.pilot").search([])
        return draw("pilots.html", pilots=pilots)

    @classmethod
    def boat(cls, request, pool, name):
        boats = pool.get("pilotage.boat").search([("name", "=", name)])
        if not boats:
            abort(404)
        return draw("boat.html", boat=boats[0])

    @classmethod
    def plan(cls, request, pool):
        return draw("pilots.html", pilots=[])
