from trytond.pool import Pool
from trytond.wizard import StateAction, Wizard


class PrintRoster(Wizard):
    """Opens the roster."""

    __name__ = "pilotage.roster"
    start_state = "open_"
    open_ = StateAction("pilotage.act_pilot")

    def do_open_(self, action):
        pilots = Pool().get("pilotage.pilot").search([])
        return action, {"ids": [pilot.id for pilot in pilots]}
