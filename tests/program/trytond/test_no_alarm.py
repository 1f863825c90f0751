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
    variants = VARIANTS
