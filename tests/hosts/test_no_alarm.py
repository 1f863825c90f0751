"""Ways to write a healthy module that look unusual: none of them may bring a finding. Each was once, or might be, a false alarm."""

import shutil
import tempfile
from pathlib import Path

from benchmarks.faults import build_healthy_host, move_host, sql_runner
from benchmarks.places import INTERPRETERS

from swift_sprout.actions.checking import check
from swift_sprout.actions.hosting import HostChoice, open_host
from swift_sprout.hosts.kits.wordpress.database import own_server
from swift_sprout.hosts.shared.faults import Fault, apply_fault

from ..support import Case, need_wordpress

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


def _on(key: str) -> str:
    """Return the statement that switches one more module on, as the host would have it."""
    return (
        "update bq_options set option_value = insert(replace(option_value, 'a:4:{', 'a:5:{'), "
        f"length(option_value), 1, 'i:4;s:{len(key)}:\"{key}\";}}') where option_name = 'active_plugins'"
    )


_PILOTAGE = "wp-content/plugins/pilotage"
WORDPRESS: dict[str, tuple[list[Step], bool]] = {
    "a function without a name on a hook": (
        [
            {
                "file": f"{_PILOTAGE}/includes/pages.php",
                "old": "add_action( 'init', 'pilotage_add_rules' );",
                "new": "add_action( 'init', static function () {\n\tpilotage_add_rules();\n} );",
            }
        ],
        True,
    ),
    "callables of the newer spelling": (
        [
            {
                "file": f"{_PILOTAGE}/pilotage.php",
                "old": "add_action( 'init', 'pilotage_load_texts' );",
                "new": "add_action( 'init', pilotage_load_texts( ... ) );",
            },
            {
                "file": f"{_PILOTAGE}/includes/endpoints.php",
                "old": "'callback'            => 'pilotage_pilots'",
                "new": "'callback'            => pilotage_pilots( ... )",
            },
        ],
        True,
    ),
    "methods named by one text, and functions of the host": (
        [
            {
                "file": f"{_PILOTAGE}/pilotage.php",
                "old": "add_shortcode( 'pilots_on_duty', array( 'Pilotage_Roster', 'draw' ) );",
                "new": "add_shortcode( 'pilots_on_duty', 'Pilotage_Roster::draw' );\n"
                "\tadd_filter( 'show_admin_bar', '__return_false' );\n\tadd_filter( 'the_title', 'trim' );",
            }
        ],
        True,
    ),
    "a method from a class of the host, and from a trait": (
        [
            {
                "file": f"{_PILOTAGE}/includes/class-pilotage-widget.php",
                "text": "<?php\n\ndefined( 'ABSPATH' ) || exit;\n\ntrait Pilotage_Quiet {\n"
                "\tpublic function hush( $text ) {\n\t\treturn $text;\n\t}\n}\n\n"
                "class Pilotage_Widget extends WP_Widget {\n\tuse Pilotage_Quiet;\n\n"
                "\tpublic function __construct() {\n"
                "\t\tparent::__construct( 'pilotage_duty', __( 'Pilots on duty', 'pilotage' ) );\n"
                "\t\tadd_filter( 'the_excerpt', array( $this, 'hush' ) );\n"
                "\t\tadd_action( 'pilotage_reload', array( $this, 'get_settings' ) );\n\t}\n\n"
                "\tpublic function widget( $args, $instance ) {\n\t\techo Pilotage_Roster::draw();\n\t}\n}\n",
            }
        ],
        True,
    ),
    "paths made with the host's own function": (
        [
            {
                "file": f"{_PILOTAGE}/pilotage.php",
                "old": "require_once __DIR__ . '/includes/pages.php';",
                "new": "require_once plugin_dir_path( __FILE__ ) . 'includes/pages.php';",
            },
            {
                "file": f"{_PILOTAGE}/pilotage.php",
                "old": "'pilotage/languages'",
                "new": "dirname( plugin_basename( __FILE__ ) ) . '/languages'",
            },
        ],
        True,
    ),
    "a loader with a list of its own": (
        [
            {
                "file": f"{_PILOTAGE}/pilotage.php",
                "old": "require_once __DIR__ . '/includes/class-pilotage-roster.php';\n",
                "new": "spl_autoload_register(\n\tstatic function ( $name ) {\n"
                "\t\t$known = array( 'Pilotage_Roster' => 'class-pilotage-roster.php' );\n"
                "\t\tif ( isset( $known[ $name ] ) ) {\n"
                "\t\t\trequire_once __DIR__ . '/includes/' . $known[ $name ];\n\t\t}\n\t}\n);\n",
            }
        ],
        True,
    ),
    "functions that stand aside for another's": (
        [
            {
                "file": "wp-content/plugins/foghorn/foghorn.php",
                "text": "<?php\n/**\n * Plugin Name: Foghorn\n * Version: 1.0\n */\n\n"
                "if ( ! function_exists( 'pilotage_pilots' ) ) {\n\tfunction pilotage_pilots() {\n\t}\n}\n",
            },
            {"sql": _on("foghorn/foghorn.php")},
        ],
        True,
    ),
    "one file alone": (
        [
            {
                "file": "wp-content/plugins/bell.php",
                "text": "<?php\n/*\nPlugin Name: Bell\nVersion: 2.0-beta1\nDescription: Rings.\n*/\n"
                "add_filter( 'the_content', function ( $text ) {\n\treturn $text;\n} );\n?>\n",
            },
            {"sql": _on("bell.php")},
        ],
        True,
    ),
    "lines that end as elsewhere": (
        [
            {
                "file": "wp-content/plugins/lantern/lantern.php",
                "text": "<?php\r\n/**\r\n * Plugin Name: Lantern\r\n * Version: 1.0\r\n * Text Domain: lantern\r\n */\r\n"
                "namespace Quay\\Lantern;\r\n\r\nfunction light() {\r\n}\r\n"
                "add_action( 'init', __NAMESPACE__ . '\\\\light' );\r\nadd_action( 'wp_head', 'Quay\\\\Lantern\\\\light' );\r\n",
            },
            {"sql": _on("lantern/lantern.php")},
        ],
        True,
    ),
    "words of the plugin's own on hooks, and hooks named by variables": (
        [
            {
                "file": f"{_PILOTAGE}/includes/endpoints.php",
                "old": "function pilotage_may_call() {",
                "new": "foreach ( array( 'save_post', 'delete_post' ) as $pilotage_hook ) {\n"
                "\tadd_action( $pilotage_hook, 'pilotage_note' );\n}\n\nfunction pilotage_note( $post ) {\n"
                "\tdo_action( 'pilotage_noted', $post );\n}\n\nfunction pilotage_may_call() {",
            }
        ],
        True,
    ),
    "many methods on one endpoint, each guarded": (
        [
            {
                "file": f"{_PILOTAGE}/includes/endpoints.php",
                "old": "		array(\n			'methods'             => 'GET',\n			'callback'            => 'pilotage_pilots',\n			'permission_callback' => '__return_true',\n		)",
                "new": "		array(\n			array(\n				'methods'             => WP_REST_Server::READABLE,\n				'callback'            => 'pilotage_pilots',\n				'permission_callback' => '__return_true',\n			),\n			array(\n				'methods'             => WP_REST_Server::CREATABLE,\n				'callback'            => 'pilotage_pilots',\n				'permission_callback' => 'pilotage_may_call',\n			),\n			'schema' => '__return_empty_array',\n		)",
            }
        ],
        True,
    ),
    "a block without a description file": (
        [
            {
                "file": f"{_PILOTAGE}/pilotage.php",
                "old": "register_block_type( __DIR__ . '/blocks/pilots-on-duty', ",
                "new": "register_block_type( 'pilotage/duty', array( 'render_callback' => '__return_empty_string' ) );\n"
                "\tregister_block_type( __DIR__ . '/blocks/pilots-on-duty/block.json', ",
            }
        ],
        True,
    ),
    "a page that the theme draws in its own way": (
        [
            {
                "file": "wp-content/themes/quayside/berth-register/berths_list.php",
                "text": "<?php\nget_header();\necho 'ours';\nget_footer();\n",
            },
        ],
        True,
    ),
    "a page that makes its whole document itself": (
        [
            {
                "file": f"{_PILOTAGE}/templates/calls.php",
                "text": "<?php defined( 'ABSPATH' ) || exit; ?>\n<!DOCTYPE html>\n<html><head><?php wp_head(); ?></head>\n"
                "<body><h1>Calls</h1><?php wp_footer(); ?></body></html>\n",
            }
        ],
        True,
    ),
    "rules with parts that change": (
        [
            {
                "file": f"{_PILOTAGE}/includes/pages.php",
                "old": "	add_rewrite_rule( '^pilots/calls/?$'",
                "new": "	add_rewrite_tag( '%pilot%', '([^&]+)' );\n"
                "	add_rewrite_rule( '^pilots/([0-9]{4})/([^/]+)/?$', 'index.php?pilotage_page=roster&year=$matches[1]&pilot=$matches[2]', 'top' );\n"
                "	add_rewrite_rule( '^pilots/calls/?$'",
            },
            {"sql": "update bq_options set option_value = '' where option_name = 'rewrite_rules'"},
        ],
        False,
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
                    if (server := own_server(site)) is not None:
                        server.stop()

    def test_no_variant_brings_a_finding_on_django(self):
        self.check_all("django", DJANGO)

    def test_no_variant_brings_a_finding_on_trytond(self):
        self.check_all("trytond", TRYTOND)

    def test_no_variant_brings_a_finding_on_wordpress(self):
        need_wordpress()
        self.check_all("wordpress", WORDPRESS)
