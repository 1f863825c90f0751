from sql.aggregate import Count, Max, Min

from trytond.i18n import gettext
from trytond.model import ModelSQL, ModelView, Workflow, fields
from trytond.model.exceptions import ValidationError
from trytond.pool import Pool
from trytond.pyson import Eval
from trytond.report import Report
from trytond.wizard import (
    Button, StateAction, StateTransition, StateView, Wizard)


class Inspection(Workflow, ModelSQL, ModelView):
    __name__ = 'quay.inspection'

    wall = fields.Many2One('quay.wall', "Wall", required=True)
    day = fields.Date("Day", required=True)
    found = fields.Text("Found")
    state = fields.Selection([
            ('planned', "Planned"),
            ('under_way', "Under way"),
            ('finished', "Finished"),
            ], "State", required=True, readonly=True, sort=False)

    @classmethod
    def __setup__(cls):
        super().__setup__()
        cls._order = [('day', 'DESC'), ('id', 'DESC')]
        cls._transitions |= {
            ('planned', 'under_way'),
            ('under_way', 'finished'),
            }
        cls._buttons.update({
                'begin': {
                    'invisible': Eval('state') != 'planned',
                    'depends': ['state'],
                    },
                'finish': {
                    'invisible': Eval('state') != 'under_way',
                    'depends': ['state'],
                    },
                })

    @staticmethod
    def default_state():
        return 'planned'

    @classmethod
    def validate(cls, inspections):
        super().validate(inspections)
        for inspection in inspections:
            if inspection.state == 'finished' and not inspection.found:
                raise ValidationError(gettext('quay_walls.msg_found'))

    @classmethod
    @ModelView.button
    @Workflow.transition('under_way')
    def begin(cls, inspections):
        pass

    @classmethod
    @ModelView.button
    @Workflow.transition('finished')
    def finish(cls, inspections):
        pass


class ByWall(ModelSQL, ModelView):
    __name__ = 'quay.inspection.by_wall'

    wall = fields.Many2One('quay.wall', "Wall")
    count = fields.Integer("Count")
    last = fields.Date("Last")

    @classmethod
    def table_query(cls):
        inspection = Pool().get('quay.inspection').__table__()
        return inspection.select(
            Min(inspection.id).as_('id'),
            inspection.wall.as_('wall'),
            Count(inspection.id).as_('count'),
            Max(inspection.day).as_('last'),
            group_by=[inspection.wall])


class OpenStart(ModelView):
    __name__ = 'quay.inspection.open.start'

    day = fields.Date("Day", required=True)


class Open(Wizard):
    __name__ = 'quay.inspection.open'

    start = StateView(
        'quay.inspection.open.start',
        'quay_walls.open_start_view_form', [
            Button("Cancel", 'end', 'tryton-cancel'),
            Button("Plan", 'plan', 'tryton-ok', default=True),
            ])
    plan = StateTransition()
    show = StateAction('quay_walls.act_inspection')

    def transition_plan(self):
        pool = Pool()
        Wall = pool.get('quay.wall')
        Inspection = pool.get('quay.inspection')
        Inspection.create([
                {'wall': wall.id, 'day': self.start.day}
                for wall in Wall.search([('closed', '=', False)])])
        return 'show'

    def do_show(self, action):
        return action, {}


class Sheet(Report):
    __name__ = 'quay.inspection.sheet'
