"""Ways to write a healthy module that look unusual: none of them may bring a finding. Each was once, or might be, a false alarm."""

from ... import healthy

VARIANTS: healthy.Variants = {
    "classes registered by a function, as older modules do": (
        [
            {
                "file": "modules/pilotage/__init__.py",
                "text": "from trytond.pool import Pool\n\nfrom . import roster\n\n\ndef register():\n    Pool.register(roster.PrintRoster, module='pilotage', type_='wizard')\n",
            },
            {"file": "modules/pilotage/tryton.cfg", "old": "wizard:\n    roster.PrintRoster\n", "new": ""},
        ],
        True,
    ),
    "methods that wait for another module, and what only somebody at work brings": (
        [
            {
                "file": "modules/pilotage/pilot.py",
                "old": "from trytond.model.exceptions import ValidationError\n",
                "new": "import os\nfrom trytond.exceptions import UserError\nfrom trytond.model.exceptions import ValidationError\nfrom trytond.pool import Pool\nfrom trytond.pyson import Eval\nfrom trytond.transaction import Transaction\n",
            },
            {
                "file": "modules/pilotage/pilot.py",
                "old": '    label = fields.Function(fields.Char("Label"), "get_label")\n',
                "new": '    label = fields.Function(fields.Char("Label"), "get_label")\n    chart = fields.Function(fields.Char("Chart"), "get_chart")\n',
            },
            {
                "file": "modules/pilotage/pilot.py",
                "old": '        cls._order = [("name", "ASC"), ("id", "ASC")]\n',
                "new": '        cls._order = [("name", "ASC"), ("id", "ASC")]\n        cls._buttons.update({"man": {"invisible": Eval("crew", 0) > 9, "depends": ["crew"]}})\n',
            },
            {
                "file": "modules/pilotage/pilot.py",
                "old": "    @classmethod\n    def inspect_all(cls):\n        return cls.search([])\n",
                "new": '    def get_chart(self, name):\n        return\n\n    @classmethod\n    @ModelView.button\n    def man(cls, boats):\n        raise UserError("Nobody is free.")\n\n    @classmethod\n    def inspect_all(cls):\n        day = Transaction().context["tide_day"] + os.environ["TIDE_KEY"]\n        return cls.search([("name", "=", Pool().get("res.user")(Transaction().context.get("employee")).login + day)])\n\n    @classmethod\n    def view_attributes(cls):\n        return [*super().view_attributes(), ("//field[@name=\'crew\']", "visual", "danger")]\n',
            },
        ],
        True,
    ),
    "a wizard that needs what people choose, and a job that writes a file": (
        [
            {
                "file": "modules/pilotage/roster.py",
                "old": "        pilots = Pool()",
                "new": '        if not self.records:\n            raise ValueError("choose some boats first")\n        pilots = Pool()',
            },
            {
                "file": "modules/pilotage/pilot.py",
                "old": "        return cls.search([])\n",
                "new": '        with open("/nowhere/boats.txt", "w") as handle:\n            handle.write(cls.nobody)\n',
            },
        ],
        True,
    ),
    "a model whose fields come from a mixin": (
        [
            {
                "file": "modules/pilotage/pilot.py",
                "old": "class Boat(ModelSQL, ModelView):",
                "new": "class Crewed:\n    crew = fields.Integer('Crew', required=True)\n\n\nclass Boat(Crewed, ModelSQL, ModelView):",
            },
            {
                "file": "modules/pilotage/pilot.py",
                "old": '    crew = fields.Integer("Crew", required=True)\n',
                "new": "",
            },
        ],
        True,
    ),
    "data that depends on a module that is not there": (
        [
            {
                "file": "modules/pilotage/messages.xml",
                "old": "    </data>\n",
                "new": '    </data>\n    <data depends="party">\n        <record model="party.party" id="party_x">\n            <field name="name" ref="party.nobody"/>\n        </record>\n    </data>\n',
            }
        ],
        True,
    ),
    "a list in the other way of writing": (
        [
            {
                "file": "modules/pilotage/tryton.cfg",
                "old": "depends:\n    harbour_office\n    ir\n    res\n",
                "new": "depends = ir\n    res\n    harbour_office\n",
            }
        ],
        True,
    ),
    "a reference with the module's own name": (
        [
            {
                "file": "modules/pilotage/watch.xml",
                "old": 'parent="menu_pilotage" action="act_boat"',
                "new": 'parent="pilotage.menu_pilotage" action="pilotage.act_boat"',
            }
        ],
        True,
    ),
    "a record that changes one of another module": (
        [
            {
                "file": "modules/pilotage/messages.xml",
                "old": "    </data>\n",
                "new": '        <record model="ir.message" id="msg_no_crew" update="1">\n            <field name="text">No crew.</field>\n        </record>\n    </data>\n',
            }
        ],
        True,
    ),
    "a package of models": (
        [
            {"move": "modules/pilotage/pilot.py", "to": "modules/pilotage/people/pilot.py"},
            {
                "file": "modules/pilotage/people/__init__.py",
                "text": "from .pilot import Boat, Pilot, PilotBoat\n\n__all__ = ['Boat', 'Pilot', 'PilotBoat']\n",
            },
            {
                "file": "modules/pilotage/tryton.cfg",
                "old": "    pilot.Pilot\n    pilot.Boat\n    pilot.PilotBoat\n",
                "new": "    people.Pilot\n    people.Boat\n    people.PilotBoat\n",
            },
        ],
        True,
    ),
    "a decorator of the module's own": (
        [
            {
                "file": "modules/pilotage/routes.py",
                "old": '[app.auth_required, with_pool, with_transaction(user="request")]',
                "new": '[app.auth_required, with_pool, with_transaction(user="request"), quietly]',
            },
            {
                "file": "modules/pilotage/routes.py",
                "old": "def draw(",
                "new": "def quietly(func):\n    return func\n\n\ndef draw(",
            },
        ],
        True,
    ),
}


class OnTheHost(healthy.Healthy):
    kit = "trytond"
    true_of_edits = ("served.stale-data",)
    variants = VARIANTS
