"""Ways to write a healthy module that look unusual: none of them may bring a finding. Each was once, or might be, a false alarm."""

import shutil
import tempfile
from pathlib import Path

from benchmarks.faults import build_healthy_host, move_host, sql_runner
from benchmarks.places import INTERPRETERS

from swift_sprout.actions.checking import check
from swift_sprout.actions.hosting import HostChoice, open_host
from swift_sprout.hosts.faults import Fault, apply_fault

from ..support import Case

Step = dict[str, str]

#  name: (steps that change the healthy site, whether to ask the running host as well)
DJANGO: dict[str, tuple[list[Step], bool]] = {
    "listed by its config class": (
        [{"file": "brindle_quay/settings.py", "old": '"pilotage"', "new": '"pilotage.apps.PilotageConfig"'}],
        True,
    ),
    "no apps.py at all": ([{"remove": "ferries/apps.py"}], True),
    "an abstract record without migrations of its own": (
        [
            {"file": "moorings/__init__.py", "text": ""},
            {
                "file": "moorings/models.py",
                "text": "from django.db import models\n\n\nclass Named(models.Model):\n    name = models.CharField(max_length=9)\n\n    class Meta:\n        abstract = True\n",
            },
            {"file": "brindle_quay/settings.py", "old": '    "pilotage",', "new": '    "pilotage",\n    "moorings",'},
        ],
        True,
    ),
    "an import that may fail": (
        [
            {
                "file": "pilotage/views.py",
                "old": "from .models",
                "new": "try:\n    import tide_tables\nexcept ImportError:\n    tide_tables = None\n\nfrom .models",
            }
        ],
        True,
    ),
    "an import inside a function": (
        [
            {
                "file": "pilotage/views.py",
                "old": "def pilots(request):\n",
                "new": 'def pilots(request):\n    if request.GET.get("x"):\n        import tide_tables\n\n        tide_tables.read()\n',
            }
        ],
        True,
    ),
    "a file with a rare import that nothing loads": (
        [{"file": "pilotage/charts.py", "text": "import chart_paper\n"}],
        True,
    ),
    "a text in the translation wrapper": (
        [
            {
                "file": "pilotage/apps.py",
                "old": "from django.apps import AppConfig\n",
                "new": "from django.apps import AppConfig\nfrom django.utils.translation import gettext_lazy as _\n",
            },
            {"file": "pilotage/apps.py", "old": '"Pilots"', "new": '_("Pilots")'},
        ],
        True,
    ),
    "listeners loaded through a second file": (
        [
            {"file": "pilotage/loading.py", "text": "from . import listeners  # noqa: F401\n"},
            {
                "file": "pilotage/apps.py",
                "old": "from . import listeners  # noqa: F401",
                "new": "from . import loading  # noqa: F401",
            },
        ],
        True,
    ),
    "a models package that imports all": (
        [
            {"move": "pilotage/models.py", "to": "pilotage/models/people.py"},
            {"file": "pilotage/models/__init__.py", "text": "from .people import *\n"},
        ],
        True,
    ),
    "a views package": (
        [
            {"move": "pilotage/views.py", "to": "pilotage/views/pages.py"},
            {"file": "pilotage/views/pages.py", "old": "from .models", "new": "from ..models"},
            {"file": "pilotage/views/__init__.py", "text": "from .pages import *\n"},
        ],
        True,
    ),
    "a template of the site in place of the module's": (
        [
            {
                "file": "templates/pilotage/pilots.html",
                "text": '{% extends "base.html" %}{% block content %}<h1>Pilots, our way</h1>{% endblock %}\n',
            }
        ],
        False,
    ),
    "a block that is filled in a layout of the module": (
        [
            {
                "file": "pilotage/templates/pilotage/frame.html",
                "text": '{% extends "base.html" %}\n{% block content %}<h1>Frame of pilots</h1>{% block inner %}{% endblock %}{% endblock %}\n',
            },
            {
                "file": "pilotage/templates/pilotage/plan.html",
                "old": '{% extends "base.html" %}\n{% block content %}',
                "new": '{% extends "pilotage/frame.html" %}\n{% block inner %}',
            },
        ],
        True,
    ),
    "a layout chosen as the page runs": (
        [
            {
                "file": "pilotage/templates/pilotage/plan.html",
                "old": '{% extends "base.html" %}',
                "new": '{% extends layout|default:"base.html" %}',
            }
        ],
        True,
    ),
    "names of addresses in another module": (
        [
            {
                "file": "pilotage/templates/pilotage/pilot.html",
                "old": "{% block content %}\n",
                "new": '{% block content %}\n<a href="{% url "ferries:timetable" %}">Ferries</a>\n',
            }
        ],
        True,
    ),
    "a controller for other methods only": (
        [
            {
                "file": "pilotage/views.py",
                "old": "class PilotPage",
                "new": 'from django.views.decorators.http import require_POST\n\n\n@require_POST\ndef report(request):\n    return render(request, "pilotage/plan.html")\n\n\nclass PilotPage',
            },
            {
                "file": "pilotage/urls.py",
                "old": '    path("rules/"',
                "new": '    path("report/", views.report, name="report"),\n    path("rules/"',
            },
        ],
        True,
    ),
    "a redirection to another page": (
        [
            {
                "file": "pilotage/urls.py",
                "old": "urlpatterns = [",
                "new": 'from django.views.generic import RedirectView\n\nurlpatterns = [\n    path("old/", RedirectView.as_view(url="/pilots/")),',
            }
        ],
        True,
    ),
    "an answer without a template": (
        [
            {
                "file": "pilotage/views.py",
                "old": '    return render(request, "pilotage/pilots.html", {"pilots": Pilot.objects.all(), "title": "Pilots"})',
                "new": '    from django.http import JsonResponse\n\n    return JsonResponse({"pilots": []})',
            }
        ],
        True,
    ),
    "a command of the host in a way of our own": (
        [
            {
                "file": "pilotage/management/commands/migrate.py",
                "text": "from django.core.management.commands.migrate import Command  # noqa: F401\n",
            }
        ],
        True,
    ),
    "a permission of the host": (
        [{"file": "pilotage/views.py", "old": "pilotage.plan_watches", "new": "auth.view_user"}],
        True,
    ),
    "a guard with a test of its own": (
        [
            {"file": "pilotage/views.py", "old": "import LoginRequiredMixin", "new": "import UserPassesTestMixin"},
            {
                "file": "pilotage/views.py",
                "old": "class Rules(LoginRequiredMixin, TemplateView):\n",
                "new": "class Rules(UserPassesTestMixin, TemplateView):\n    def test_func(self):\n        return True\n\n",
            },
        ],
        True,
    ),
    "no administration in the host": (
        [
            {"file": "brindle_quay/settings.py", "old": '    "django.contrib.admin",\n', "new": ""},
            {"file": "brindle_quay/urls.py", "old": '    path("admin/", admin.site.urls),\n', "new": ""},
            {"file": "brindle_quay/urls.py", "old": "from django.contrib import admin\n", "new": ""},
        ],
        True,
    ),
    "modules of one kind in a folder of their own": (
        [
            {"file": "office/desk/__init__.py", "text": ""},
            {
                "file": "office/desk/apps.py",
                "text": 'from django.apps import AppConfig\n\n\nclass DeskConfig(AppConfig):\n    name = "office.desk"\n\n    def ready(self):\n        pass\n',
            },
            {
                "file": "brindle_quay/settings.py",
                "old": '    "pilotage",',
                "new": '    "pilotage",\n    "office.desk",',
            },
        ],
        True,
    ),
    "a static file of a package": (
        [
            {
                "file": "pilotage/templates/pilotage/pilots.html",
                "old": "<h1>",
                "new": '<link rel="stylesheet" href="{% static "admin/css/base.css" %}"><h1>',
            }
        ],
        True,
    ),
}


TRYTOND: dict[str, tuple[list[Step], bool]] = {
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


class Healthy(Case):
    def check_all(self, kit: str, variants: dict[str, tuple[list[Step], bool]]) -> None:
        with tempfile.TemporaryDirectory() as base:
            healthy = build_healthy_host(kit, Path(base).resolve())
            for name, (steps, live) in variants.items():
                with self.subTest(name):
                    site = self.folder / "site"
                    shutil.rmtree(site, ignore_errors=True)
                    move_host(kit, healthy, site)
                    apply_fault(Fault(name, tuple(steps), "", "pilotage", 30), site, sql_runner(kit, site))
                    opened = open_host(HostChoice(str(site), kit, str(INTERPRETERS[kit])))
                    for static in (True, False) if live else (True,):
                        found = check(opened, [], static=static)
                        said = [f"{one.code} {one.place}: {one.cause}" for one in found.findings]
                        self.assertEqual(said, [])
                        self.assertEqual([setup.failure for setup in found.setups], [""])

    def test_no_variant_brings_a_finding_on_django(self):
        self.check_all("django", DJANGO)

    def test_no_variant_brings_a_finding_on_trytond(self):
        self.check_all("trytond", TRYTOND)
