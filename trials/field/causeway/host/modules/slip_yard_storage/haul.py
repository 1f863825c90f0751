from trytond.model import ModelView, fields
from trytond.pool import Pool, PoolMeta
from trytond.pyson import Eval
from trytond.wizard import Button, StateTransition, StateView


class Haul(metaclass=PoolMeta):
    __name__ = 'slip_yard.haul'

    stored = fields.Boolean("Stored")
    shed = fields.Char("Shed", states={
            'invisible': ~Eval('stored', False),
            })

    @classmethod
    def __setup__(cls):
        super().__setup__()
        cls._buttons.update({
                'store': {
                    'invisible': (Eval('state') != 'ashore') | Eval('stored', False),
                    'depends': ['state', 'stored'],
                    },
                })
        cls.boat.states = dict(cls.boat.states, required=True)

    @classmethod
    def _get_origin(cls):
        return super()._get_origin() + ['slip_yard.cradle']

    @classmethod
    @ModelView.button
    def store(cls, hauls):
        cls.write(hauls, {'stored': True})

    @classmethod
    def copy(cls, hauls, default=None):
        default = {} if default is None else default.copy()
        default.setdefault('stored', False)
        return super().copy(hauls, default=default)


class Cradle(metaclass=PoolMeta):
    __name__ = 'slip_yard.cradle'

    shed = fields.Char("Shed")

    @classmethod
    def view_attributes(cls):
        return super().view_attributes() + [
            ('/form//field[@name="shed"]', 'help', "In which shed it stands"),
            ]


class RescheduleStart(metaclass=PoolMeta):
    __name__ = 'slip_yard.haul.reschedule.start'

    keep_shed = fields.Boolean("Keep Shed")

    @staticmethod
    def default_keep_shed():
        return True


class Reschedule(metaclass=PoolMeta):
    __name__ = 'slip_yard.haul.reschedule'

    tidy = StateTransition()

    @classmethod
    def __setup__(cls):
        super().__setup__()
        cls.start.buttons.insert(1, Button("Tidy", 'tidy', 'tryton-clear'))

    def transition_tidy(self):
        for haul in self.records:
            if not self.start.keep_shed:
                haul.shed = None
        self.model.save(self.records)
        return 'move'
