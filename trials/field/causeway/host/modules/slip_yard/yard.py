from sql.conditionals import Coalesce
from sql.operators import Equal

from trytond.model import (
    DeactivableMixin, Exclude, ModelSQL, ModelView, Unique, fields,
    sequence_ordered, tree)
from trytond.pool import Pool
from trytond.pyson import Bool, Eval, If
from trytond.tools import lstrip_wildcard


class Cradle(tree(separator=' / '), sequence_ordered(), DeactivableMixin, ModelSQL, ModelView):
    __name__ = 'slip_yard.cradle'

    name = fields.Char("Name", required=True, translate=True)
    code = fields.Char("Code")
    parent = fields.Many2One(
        'slip_yard.cradle', "Parent", ondelete='RESTRICT',
        domain=[('id', '!=', Eval('id', -1))])
    children = fields.One2Many('slip_yard.cradle', 'parent', "Children")
    longest = fields.Numeric("Longest", digits=(6, 2))
    kind = fields.Selection([
            ('rail', "On rails"),
            ('trailer', "Trailer"),
            (None, ""),
            ], "Kind")
    axles = fields.Integer(
        "Axles", states={
            'invisible': Eval('kind') != 'trailer',
            'required': Eval('kind') == 'trailer',
            })
    tags = fields.Many2Many(
        'slip_yard.cradle-tag', 'cradle', 'tag', "Tags")
    hauls = fields.One2Many('slip_yard.haul', 'cradle', "Hauls", readonly=True)
    busy = fields.Function(
        fields.Boolean("Busy"), 'get_busy', searcher='search_busy')
    extra = fields.Dict('slip_yard.mark', "Extra")

    @classmethod
    def __setup__(cls):
        super().__setup__()
        table = cls.__table__()
        cls._sql_constraints += [
            ('code_exclude',
                Exclude(table,
                    (table.code, Equal),
                    where=Coalesce(table.code, '') != ''),
                'slip_yard.msg_cradle_code'),
            ]
        cls._order.insert(0, ('code', 'ASC'))

    @staticmethod
    def default_kind():
        return 'rail'

    @fields.depends('kind', 'axles')
    def on_change_kind(self):
        if self.kind != 'trailer':
            self.axles = None

    @classmethod
    def get_busy(cls, cradles, name):
        busy = {c.id: False for c in cradles}
        for cradle in cradles:
            busy[cradle.id] = any(h.state == 'ashore' for h in cradle.hauls)
        return busy

    @classmethod
    def search_busy(cls, name, clause):
        _, operator, value = clause
        if bool(value) == (operator == '='):
            return [('hauls.state', '=', 'ashore')]
        return ['OR', ('hauls', '=', None), ('hauls.state', '!=', 'ashore')]

    def get_rec_name(self, name):
        if self.code:
            return '[' + self.code + '] ' + self.name
        return self.name

    @classmethod
    def search_rec_name(cls, name, clause):
        _, operator, operand, *extra = clause
        bool_op = 'AND' if operator.startswith('!') or operator.startswith('not ') else 'OR'
        code_value = operand
        if operator.endswith('like') and isinstance(operand, str):
            code_value = lstrip_wildcard(operand)
        return [bool_op,
            ('name', operator, operand, *extra),
            ('code', operator, code_value, *extra),
            ]

    @classmethod
    def view_attributes(cls):
        return super().view_attributes() + [
            ('/tree/field[@name="code"]', 'visual',
                If(Bool(Eval('busy')), 'warning', '')),
            ('/form//page[@id="hauls"]', 'states', {
                    'invisible': ~Eval('hauls', []),
                    }, ['hauls']),
            ]

    @classmethod
    def copy(cls, cradles, default=None):
        default = default.copy() if default is not None else {}
        default.setdefault('code', None)
        default.setdefault('hauls', None)
        return super().copy(cradles, default=default)


class Tag(ModelSQL, ModelView):
    __name__ = 'slip_yard.tag'
    name = fields.Char("Name", required=True)

    @classmethod
    def __setup__(cls):
        super().__setup__()
        t = cls.__table__()
        cls._sql_constraints = [
            ('name_unique', Unique(t, t.name), 'slip_yard.msg_tag_unique'),
            ]


class CradleTag(ModelSQL):
    __name__ = 'slip_yard.cradle-tag'
    cradle = fields.Many2One('slip_yard.cradle', "Cradle", ondelete='CASCADE', required=True)
    tag = fields.Many2One('slip_yard.tag', "Tag", ondelete='CASCADE', required=True)
