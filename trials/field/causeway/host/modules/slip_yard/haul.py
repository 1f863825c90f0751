import datetime as dt
from collections import defaultdict
from decimal import Decimal

from sql import Literal
from sql.aggregate import Count, Sum
from sql.conditionals import Case

from trytond.i18n import gettext
from trytond.model import (
    DictSchemaMixin, Index, ModelSQL, ModelView, Workflow, fields)
from trytond.model.exceptions import AccessError, ValidationError
from trytond.pool import Pool
from trytond.pyson import Bool, Eval, If, PYSONEncoder
from trytond.report import Report
from trytond.tools import reduce_ids
from trytond.transaction import Transaction
from trytond.wizard import (
    Button, StateAction, StateTransition, StateView, Wizard)

STATES = {'readonly': Eval('state') != 'draft'}


class HaulError(ValidationError):
    pass


class Haul(Workflow, ModelSQL, ModelView):
    __name__ = 'slip_yard.haul'
    _rec_name = 'number'

    number = fields.Char("Number", readonly=True)
    boat = fields.Char("Boat", required=True, states=STATES)
    cradle = fields.Many2One(
        'slip_yard.cradle', "Cradle", required=True, ondelete='RESTRICT',
        states=STATES,
        domain=[
            If(Eval('state') == 'draft', ('active', '=', True), ()),
            ],
        context={'haul_day': Eval('day', None)}, depends=['day'])
    day = fields.Date("Day", required=True, states=STATES)
    until = fields.Date(
        "Until", domain=[
            If(Bool(Eval('until')) & Bool(Eval('day')),
                ('until', '>=', Eval('day', None)), ()),
            ])
    lines = fields.One2Many(
        'slip_yard.haul.line', 'haul', "Lines", states=STATES)
    total = fields.Function(
        fields.Numeric("Total", digits=(16, 2)), 'on_change_with_total')
    days = fields.Function(fields.Integer("Days"), 'get_days')
    origin = fields.Reference("Origin", selection='get_origins')
    state = fields.Selection([
            ('draft', "Draft"),
            ('ashore', "Ashore"),
            ('afloat', "Afloat"),
            ('cancelled', "Cancelled"),
            ], "State", required=True, readonly=True, sort=False)

    @classmethod
    def __setup__(cls):
        super().__setup__()
        t = cls.__table__()
        cls._sql_indexes.add(
            Index(t, (t.state, Index.Equality(cardinality='low')),
                where=t.state.in_(['draft', 'ashore'])))
        cls._order = [('day', 'DESC NULLS FIRST'), ('id', 'DESC')]
        cls._transitions |= set((
                ('draft', 'ashore'),
                ('ashore', 'afloat'),
                ('draft', 'cancelled'),
                ('cancelled', 'draft'),
                ))
        cls._buttons.update(
            cancel={
                'invisible': Eval('state') != 'draft',
                'depends': ['state'],
                },
            draft={
                'invisible': Eval('state') != 'cancelled',
                'icon': 'tryton-back',
                'depends': ['state'],
                },
            lift={
                'invisible': Eval('state') != 'draft',
                'readonly': ~Eval('lines', []),
                'depends': ['state', 'lines'],
                },
            launch={
                'invisible': Eval('state') != 'ashore',
                'depends': ['state'],
                },
            reschedule={
                'invisible': ~Eval('state').in_(['draft']),
                'depends': ['state'],
                })

    @classmethod
    def default_state(cls):
        return 'draft'

    @classmethod
    def default_day(cls):
        return Pool().get('ir.date').today()

    @fields.depends('lines')
    def on_change_with_total(self, name=None):
        return sum((l.amount or Decimal(0) for l in self.lines or ()), Decimal(0))

    @fields.depends('cradle', 'until', 'day')
    def on_change_cradle(self):
        if self.cradle and self.cradle.kind == 'rail' and self.day:
            self.until = self.day + dt.timedelta(days=3)

    @classmethod
    def get_days(cls, hauls, names):
        result = {name: {} for name in names}
        for haul in hauls:
            end = haul.until or Pool().get('ir.date').today()
            for name in names:
                result[name][haul.id] = (end - haul.day).days
        return result

    @classmethod
    def get_origins(cls):
        Model = Pool().get('ir.model')
        get_name = Model.get_name
        return [(None, '')] + [(m, get_name(m)) for m in cls._get_origin()]

    @classmethod
    def _get_origin(cls):
        return ['slip_yard.haul']

    @classmethod
    def preprocess_values(cls, mode, values):
        Configuration = Pool().get('slip_yard.configuration')
        values = super().preprocess_values(mode, values)
        if mode == 'create' and not values.get('number'):
            sequence = Configuration(1).haul_sequence
            if sequence:
                values['number'] = sequence.get()
        return values

    @classmethod
    def validate_fields(cls, hauls, names):
        super().validate_fields(hauls, names)
        if names & {'until', 'day'}:
            for haul in hauls:
                if haul.until and haul.until < haul.day:
                    raise HaulError(gettext(
                            'slip_yard.msg_haul_until', haul=haul.rec_name))

    @classmethod
    def check_modification(cls, mode, hauls, values=None, external=False):
        super().check_modification(mode, hauls, values=values, external=external)
        if mode == 'delete':
            for haul in hauls:
                if haul.state not in {'draft', 'cancelled'}:
                    raise AccessError(gettext(
                            'slip_yard.msg_haul_delete', haul=haul.rec_name))

    @classmethod
    @ModelView.button
    @Workflow.transition('cancelled')
    def cancel(cls, hauls):
        pass

    @classmethod
    @ModelView.button
    @Workflow.transition('draft')
    def draft(cls, hauls):
        pass

    @classmethod
    @ModelView.button
    @Workflow.transition('ashore')
    def lift(cls, hauls):
        for haul in hauls:
            for line in haul.lines:
                line.done = True
            haul.lines = haul.lines
        cls.save(hauls)

    @classmethod
    @ModelView.button
    @Workflow.transition('afloat')
    def launch(cls, hauls):
        today = Pool().get('ir.date').today()
        cls.write([h for h in hauls if not h.until], {'until': today})

    @classmethod
    @ModelView.button_action('slip_yard.wizard_reschedule')
    def reschedule(cls, hauls):
        pass

    @classmethod
    def close_old(cls):
        today = Pool().get('ir.date').today()
        old = cls.search([
                ('state', '=', 'ashore'),
                ('until', '<', today - dt.timedelta(days=90)),
                ])
        cls.launch(old)


class Line(ModelSQL, ModelView):
    __name__ = 'slip_yard.haul.line'

    haul = fields.Many2One('slip_yard.haul', "Haul", required=True, ondelete='CASCADE')
    work = fields.Char("Work", required=True)
    hours = fields.Numeric("Hours", digits=(8, 2))
    rate = fields.Numeric("Rate", digits=(8, 2))
    amount = fields.Function(fields.Numeric("Amount", digits=(16, 2)), 'on_change_with_amount')
    done = fields.Boolean("Done")
    haul_state = fields.Function(
        fields.Selection('get_haul_states', "Haul State"), 'on_change_with_haul_state')

    @classmethod
    def __setup__(cls):
        super().__setup__()
        cls.__access__.add('haul')

    @classmethod
    def get_haul_states(cls):
        pool = Pool()
        return pool.get('slip_yard.haul').fields_get(['state'])['state']['selection']

    @fields.depends('haul', '_parent_haul.state')
    def on_change_with_haul_state(self, name=None):
        if self.haul:
            return self.haul.state

    @fields.depends('hours', 'rate')
    def on_change_with_amount(self, name=None):
        return (self.hours or Decimal(0)) * (self.rate or Decimal(0))


class Mark(DictSchemaMixin, ModelSQL, ModelView):
    __name__ = 'slip_yard.mark'


class Context(ModelView):
    __name__ = 'slip_yard.load.context'

    from_date = fields.Date("From")
    to_date = fields.Date("To")


class Load(ModelSQL, ModelView):
    __name__ = 'slip_yard.load'

    cradle = fields.Many2One('slip_yard.cradle', "Cradle")
    hauls = fields.Integer("Hauls")
    open = fields.Integer("Open")

    @classmethod
    def table_query(cls):
        context = Transaction().context
        haul = Pool().get('slip_yard.haul').__table__()
        where = Literal(True)
        if context.get('from_date'):
            where &= haul.day >= context['from_date']
        if context.get('to_date'):
            where &= haul.day <= context['to_date']
        return haul.select(
            haul.cradle.as_('id'),
            haul.cradle.as_('cradle'),
            Count(haul.id).as_('hauls'),
            Sum(Case((haul.state == 'ashore', 1), else_=0)).as_('open'),
            where=where,
            group_by=haul.cradle)


class RescheduleStart(ModelView):
    __name__ = 'slip_yard.haul.reschedule.start'

    day = fields.Date("Day", required=True)
    earliest = fields.Date("Earliest", readonly=True)


class Reschedule(Wizard):
    __name__ = 'slip_yard.haul.reschedule'

    start_state = 'check'
    check = StateTransition()
    start = StateView(
        'slip_yard.haul.reschedule.start',
        'slip_yard.reschedule_start_view_form', [
            Button("Cancel", 'end', 'tryton-cancel'),
            Button("Move", 'move', 'tryton-ok', default=True),
            ])
    move = StateTransition()
    open_ = StateAction('slip_yard.act_haul_form')

    def transition_check(self):
        return 'start'

    def default_start(self, fields):
        today = Pool().get('ir.date').today()
        return {'day': self.record.day if self.record else today, 'earliest': today}

    def transition_move(self):
        for haul in self.records:
            haul.day = self.start.day
        self.model.save(self.records)
        return 'open_'

    def do_open_(self, action):
        action['pyson_domain'] = PYSONEncoder().encode([('id', 'in', [r.id for r in self.records])])
        return action, {}


class Ticket(Report):
    __name__ = 'slip_yard.haul.ticket'

    @classmethod
    def get_context(cls, records, header, data):
        context = super().get_context(records, header, data)
        context['hours'] = sum((l.hours or 0) for h in records for l in h.lines)
        return context
