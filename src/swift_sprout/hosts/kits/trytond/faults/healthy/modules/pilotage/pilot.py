from trytond.i18n import gettext
from trytond.model import DeactivableMixin, ModelSQL, ModelView, Unique, fields
from trytond.model.exceptions import ValidationError


class Pilot(DeactivableMixin, ModelSQL, ModelView):
    """Somebody who knows the channel."""

    __name__ = "pilotage.pilot"
    name = fields.Char("Name", required=True)
    licence = fields.Char("Licence", required=True)
    boats = fields.Many2Many("pilotage.pilot-boat", "pilot", "boat", "Boats")


class Boat(ModelSQL, ModelView):
    """A boat that brings pilots out."""

    __name__ = "pilotage.boat"
    _rec_name = "name"
    name = fields.Char("Name", required=True)
    crew = fields.Integer("Crew", required=True)
    tenders = fields.One2Many("pilotage.pilot-boat", "boat", "Pilots")
    label = fields.Function(fields.Char("Label"), "get_label")

    @classmethod
    def __setup__(cls):
        super().__setup__()
        table = cls.__table__()
        cls._sql_constraints.append(("name_unique", Unique(table, table.name), "pilotage.msg_boat_unique"))
        cls._order = [("name", "ASC"), ("id", "ASC")]

    @classmethod
    def default_crew(cls):
        return 2

    def get_label(self, name):
        return f"{self.name} ({self.crew})"

    @classmethod
    def validate(cls, boats):
        super().validate(boats)
        for boat in boats:
            if boat.crew < 1:
                raise ValidationError(gettext("pilotage.msg_no_crew"))

    @classmethod
    def inspect_all(cls):
        return cls.search([])


class PilotBoat(ModelSQL):
    """Which pilot goes with which boat."""

    __name__ = "pilotage.pilot-boat"
    pilot = fields.Many2One("pilotage.pilot", "Pilot", ondelete="CASCADE", required=True)
    boat = fields.Many2One("pilotage.boat", "Boat", ondelete="CASCADE", required=True)
