"""Ways to write a healthy module that look unusual: none of them may bring a finding."""

from ... import healthy

INIT, VIEWS, FACTORY = "pilotage/__init__.py", "pilotage/views.py", "harbour/__init__.py"
IMPORT = "    from pilotage import blueprint as pilotage\n"
REGISTER = "    app.register_blueprint(pilotage)\n"
MAKE = 'blueprint = Blueprint("pilotage", __name__, template_folder="templates")\n'
MORE = '@blueprint.get("/pilots/<name>")'


def view(code: str) -> list[healthy.Step]:
    """Return the step that adds to the views, before the last one."""
    return [{"file": VIEWS, "old": MORE, "new": f"{code}\n\n\n{MORE}"}]


#  by its name: the steps that change the healthy site, and whether to ask the running host as well
VARIANTS: healthy.Variants = {
    "a blueprint of another name": (
        [
            {"file": INIT, "old": MAKE, "new": MAKE.replace("blueprint =", "pilots_bp =")},
            {"file": VIEWS, "old": "from . import blueprint", "new": "from . import pilots_bp as blueprint"},
            {"file": FACTORY, "old": IMPORT, "new": "    from pilotage import pilots_bp as pilotage\n"},
        ],
        True,
    ),
    "a module that registers itself": (
        [
            {
                "file": INIT,
                "old": MAKE,
                "new": MAKE + "\n\ndef init_app(app):\n    app.register_blueprint(blueprint)\n",
            },
            {"file": FACTORY, "old": IMPORT, "new": "    import pilotage\n"},
            {"file": FACTORY, "old": REGISTER, "new": "    pilotage.init_app(app)\n"},
        ],
        True,
    ),
    "a blueprint that views.py makes": (
        [
            {"file": INIT, "text": '"""Pilotage."""\n'},
            {
                "file": VIEWS,
                "old": "from flask import abort, redirect, render_template, request, url_for\n\nfrom . import blueprint\n",
                "new": f"from flask import Blueprint, abort, redirect, render_template, request, url_for\n\n{MAKE}",
            },
            {"file": FACTORY, "old": IMPORT, "new": "    from pilotage.views import blueprint as pilotage\n"},
        ],
        True,
    ),
    "blueprints registered in a loop": (
        [
            {
                "file": FACTORY,
                "old": REGISTER,
                "new": "    for one in (pilotage,):\n        app.register_blueprint(one)\n",
            }
        ],
        True,
    ),
    "blueprints registered by a helper in the same file": (
        [
            {"file": FACTORY, "old": IMPORT, "new": ""},
            {"file": FACTORY, "old": REGISTER, "new": "    _more(app)\n"},
            {
                "file": FACTORY,
                "old": "def create_app():",
                "new": f"def _more(app):\n{IMPORT}{REGISTER}\n\ndef create_app():",
            },
        ],
        True,
    ),
    "a helper in a file of its own": (
        [
            {"file": FACTORY, "old": IMPORT, "new": "    from .parts import add_parts\n"},
            {"file": FACTORY, "old": REGISTER, "new": "    add_parts(app)\n"},
            {"file": "harbour/parts.py", "text": f"def add_parts(app):\n{IMPORT}{REGISTER}"},
        ],
        True,
    ),
    "views within the factory, with returns of their own": (
        [
            {
                "file": FACTORY,
                "old": IMPORT,
                "new": f'    @app.get("/alive")\n    def alive():\n        return "alive"\n\n{IMPORT}',
            }
        ],
        True,
    ),
    "answers without a body": (
        view(
            '@blueprint.get("/pilots/ping")\ndef ping():\n    return "", 204\n\n\n@blueprint.get("/pilots/none")\n'
            'def none():\n    return "", 200, {"Content-Type": "text/plain"}'
        ),
        True,
    ),
    "pages that refuse for reasons of their own": (
        view(
            "\n\n".join(
                f'@blueprint.get("/pilots/refused-{status}")\ndef refused_{status}():\n    return "no", {status}\n'
                for status in (400, 401, 403, 404, 410, 503)
            )
        ),
        True,
    ),
    "a function before each request that lets all pass": (
        view("@blueprint.before_app_request\ndef remember():\n    blueprint.seen = True"),
        True,
    ),
    "a second blueprint": (
        [
            {"file": INIT, "old": MAKE, "new": MAKE + 'charts = Blueprint("charts", __name__)\n'},
            {"file": FACTORY, "old": IMPORT, "new": IMPORT + "    from pilotage import charts\n"},
            {
                "file": FACTORY,
                "old": REGISTER,
                "new": REGISTER + '    app.register_blueprint(charts, url_prefix="/charts")\n',
            },
        ],
        True,
    ),
    "a blueprint that is kept for later": (
        [
            {
                "file": "pilotage/later.py",
                "text": 'from flask import Blueprint\n\nlater = Blueprint("later", __name__)\n\n\n'
                '@later.get("/later")\ndef page():\n    return "later"\n',
            }
        ],
        True,
    ),
    "tests that add views of their own": (
        [
            {
                "file": "pilotage/tests/test_views.py",
                "text": "from pilotage import blueprint\n\n\n"
                '@blueprint.get("/only-in-tests")\ndef only():\n    return "x"\n',
            }
        ],
        True,
    ),
    "a template that may be missing": (
        [
            {
                "file": "pilotage/templates/pilotage/pilots.html",
                "old": "<ul>",
                "new": '{% include "pilotage/notice.html" ignore missing %}\n<ul>',
            }
        ],
        True,
    ),
    "an address that is asked for only where it is there": (
        [
            {
                "file": "pilotage/templates/pilotage/pilots.html",
                "old": "<ul>",
                "new": "<a href=\"{{ url_for('ferries.index' if false else 'pilotage.pilots') }}\">Pilots</a>\n<ul>",
            }
        ],
        True,
    ),
    "one function for two addresses, one address for two methods, and a converter of one's own": (
        [
            {
                "file": "pilotage/views.py",
                "old": '@blueprint.get("/pilots/<name>")\ndef pilot(name):',
                "new": '@blueprint.get("/board")\n@blueprint.get("/board/")\ndef board():\n    return "Pilots"\n\n\n@blueprint.post("/board")\ndef note():\n    return "", 204\n\n\n@blueprint.get("/pilots/<berth:name>")\ndef pilot(name):',
            },
            {
                "file": "pilotage/kinds.py",
                "text": "from werkzeug.routing import BaseConverter\n\n\nclass Berth(BaseConverter):\n    part_isolating = True\n",
            },
            {
                "file": "pilotage/__init__.py",
                "old": "from . import views",
                "new": "from .kinds import Berth  # noqa: E402\n\nblueprint.record_once(lambda state: state.app.url_map.converters.update(berth=Berth))\nfrom . import views",
            },
        ],
        True,
    ),
    "views that a package takes in by a list of names": (
        [
            {"move": "pilotage/views.py", "to": "pilotage/pages/lists.py"},
            {"file": "pilotage/pages/__init__.py", "text": "from . import (\n    lists,  # noqa: F401\n)\n"},
            {"file": "pilotage/pages/lists.py", "old": "from . import blueprint", "new": "from .. import blueprint"},
            {"file": "pilotage/__init__.py", "old": "from . import views", "new": "from . import pages"},
        ],
        True,
    ),
    "arguments that defaults, other decorators and a dictionary take": (
        [
            {
                "file": "pilotage/views.py",
                "old": '@blueprint.get("/pilots")\n',
                "new": 'def named(view):\n    def with_name(pilot_name):\n        return view(name=pilot_name)\n\n    with_name.__name__ = view.__name__\n    return with_name\n\n\n@blueprint.get("/first", defaults={"name": "Ada"})\n@blueprint.get("/by/<name>")\ndef first(name):\n    return name\n\n\n@blueprint.get("/named/<pilot_name>")\n@named\ndef by_name(name):\n    return name\n\n\n@blueprint.get("/any/<berth>/<int:depth>")\ndef anything(**given):\n    return given\n\n\n@blueprint.get("/pilots")\n',
            },
            {
                "file": "pilotage/templates/pilotage/pilots.html",
                "old": "<ul>",
                "new": "{% if pilost %}{{ pilost }}{% endif %}<ul>",
            },
        ],
        True,
    ),
    "an object that does not tell what it has": (
        [
            {
                "file": "pilotage/views.py",
                "old": "def pilots():\n    return render_template(",
                "new": 'class Closed:\n    def __dir__(self):\n        raise RuntimeError("closed")\n\n\ndef pilots():\n    return render_template(',
            },
            {"file": "pilotage/views.py", "old": 'title="Pilots", ', "new": 'title="Pilots", closed=Closed(), '},
            {"file": "pilotage/views.py", "old": "title=name, ", "new": "title=name, closed=Closed(), "},
            {
                "file": "pilotage/views.py",
                "old": '@blueprint.get("/pilots")\n',
                "new": "",
            },
            {
                "file": "pilotage/views.py",
                "old": "def pilots():\n",
                "new": '@blueprint.get("/pilots")\ndef pilots():\n',
            },
            {
                "file": "pilotage/templates/pilotage/pilots.html",
                "old": "<ul>",
                "new": "{{ closed.depth }}<ul>",
            },
        ],
        True,
    ),
    "what servers load puts the application into something else": (
        [
            {
                "file": "wsgi.py",
                "text": "from harbour import create_app\nfrom werkzeug.middleware.proxy_fix import ProxyFix\n\napplication = ProxyFix(create_app())\n",
            },
        ],
        True,
    ),
}


class OnTheHost(healthy.Healthy):
    kit = "flask"
    variants = VARIANTS
