from trytond.model import ModelSQL, ModelView, Unique, fields
from trytond.pyson import Eval


class Wall(ModelSQL, ModelView):
    __name__ = 'quay.wall'

    name = fields.Char("Name", required=True)
    length = fields.Integer("Length")
    closed = fields.Boolean("Closed")
    reason = fields.Char("Reason", states={'required': Eval('closed', False)})
    inspections = fields.One2Many('quay.inspection', 'wall', "Inspections")
    state_of_it = fields.Function(
        fields.Char("State"), 'get_state', searcher='search_state')

    @classmethod
    def __setup__(cls):
        super().__setup__()
        t = cls.__table__()
        cls._sql_constraints = [
            ('name_unique', Unique(t, t.name), 'quay_walls.msg_wall_unique'),
            ]

    @classmethod
    def default_length(cls):
        return 100

    def get_state(self, name):
        return 'closed' if self.closed else 'open'

    @classmethod
    def search_state(cls, name, clause):
        return [('closed', '=', clause[2] == 'closed')]
