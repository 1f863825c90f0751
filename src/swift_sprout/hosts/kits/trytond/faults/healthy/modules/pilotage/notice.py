from trytond.model import fields
from trytond.pool import PoolMeta


class Notice(metaclass=PoolMeta):
    __name__ = "harbour_office.notice"
    pilot = fields.Many2One("pilotage.pilot", "Pilot")
