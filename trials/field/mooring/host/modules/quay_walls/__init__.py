from trytond.pool import Pool

from . import inspection, routes, wall

__all__ = ['register']


def register():
    Pool.register(
        wall.Wall,
        inspection.Inspection,
        inspection.ByWall,
        inspection.OpenStart,
        module='quay_walls', type_='model')
    Pool.register(
        inspection.Open,
        module='quay_walls', type_='wizard')
    Pool.register(
        inspection.Sheet,
        module='quay_walls', type_='report')
    Pool.register(
        routes.Walls,
        module='quay_walls', type_='router')
