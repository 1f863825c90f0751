from trytond.protocols.wrappers import (
    Response, with_pool, with_transaction)
from trytond.routing import Route, Router, Rule


class Walls(Router):
    __name__ = 'quay_walls'

    @classmethod
    def __setup__(cls):
        super().__setup__()
        cls.__routes__.update({
                'closed': Route(
                    Rule('closed', methods={'GET'}),
                    decorators=[with_pool, with_transaction()]),
                })

    @classmethod
    def closed(cls, request, pool):
        Wall = pool.get('quay.wall')
        names = ', '.join(w.name for w in Wall.search([('closed', '=', True)]))
        return Response(
            '<!doctype html><html><head><title>Closed</title></head>'
            '<body><p>Closed: %s</p></body></html>' % names,
            content_type='text/html; charset=utf-8')
