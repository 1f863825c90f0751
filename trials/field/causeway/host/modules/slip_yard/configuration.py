from trytond.model import ModelSingleton, ModelSQL, ModelView, fields
from trytond.pool import Pool
from trytond.pyson import Eval, Id


class Configuration(ModelSingleton, ModelSQL, ModelView):
    __name__ = 'slip_yard.configuration'

    haul_sequence = fields.Many2One(
        'ir.sequence', "Haul Sequence",
        domain=[
            ('sequence_type', '=', Id('slip_yard', 'sequence_type_haul')),
            ])
    days_free = fields.Integer(
        "Free Days", domain=[('days_free', '>=', 0)],
        help="Days on land before rent is due.")
    warns = fields.Boolean("Warns")
    warn_days = fields.Integer(
        "Warn Days", states={
            'invisible': ~Eval('warns', False),
            'required': Eval('warns', False),
            })

    @classmethod
    def default_days_free(cls, **pattern):
        return 3

    @classmethod
    def default_haul_sequence(cls, **pattern):
        ModelData = Pool().get('ir.model.data')
        try:
            return ModelData.get_id('slip_yard', 'sequence_haul')
        except KeyError:
            return None
