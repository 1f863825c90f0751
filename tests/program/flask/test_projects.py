"""The whole story on applications that somebody else wrote: modules are registered where that always runs."""

import os
import shutil
import subprocess
from pathlib import Path

from trials.field import HERE
from trials.places import RUNTIMES

from ...support import Case, Ran, sprout, tree_of

ONE_FILE = {
    "app.py": """import os
from pathlib import Path

from flask import Flask

from gates import gates

app = Flask(__name__)
app.config["DATABASE"] = os.environ.get("QUAY_DATABASE", str(Path(__file__).parent / "quay.sqlite3"))
app.register_blueprint(gates, url_prefix="/gates")


@app.route("/")
def front():
    return "The quay"


if __name__ == "__main__":
    app.run(debug=True)
""",
    "gates.py": """from flask import Blueprint

gates = Blueprint("gates", __name__)


@gates.get("/")
def every_gate():
    return "Two gates"
""",
}
PACKAGE = {
    "pyproject.toml": '[project]\nname = "quay"\nversion = "1.0"\n',
    "quay/__init__.py": """from pathlib import Path

from flask import Flask


def create_app(test_config=None):
    app = Flask(__name__, instance_relative_config=True)
    app.config.from_mapping(SECRET_KEY="dev", DATABASE=str(Path(app.instance_path) / "quay.sqlite3"))
    Path(app.instance_path).mkdir(exist_ok=True)

    @app.get("/hello")
    def hello():
        return "Hello"

    if test_config is not None:
        app.config.update(test_config)
        return app
    return app
""",
}
LAYOUT = """<!doctype html>
<html lang="en">
<head>
<title>{% block title %}The quay{% endblock %}</title>
{#- {% block head %}{% endblock %} #}
{%- block styles %}<link rel="stylesheet" href="/static/site.css">{% endblock %}
</head>
<body>
<main>{%- block main -%}{%- endblock -%}</main>
{% block scripts %}<script src="/static/site.js"></script>{% endblock %}
</body>
</html>
"""
BUOYS = """[module]
name = "Buoy yard"

[[record]]
name = "Buoy"
fields = ['light: choice(red = "Red {{ lamp }}", green), default red', 'name: text(20)']
order_by = ["-light"]

[[page]]
path = "/buoys"
title = "Buoys & lamps"
shows = "Buoy"

[[asset]]
file = "yard.css"

[[asset]]
file = "yard.js"
"""
NO_FACTORY = {
    "src/quay/__init__.py": "",
    "src/quay/web.py": """from flask import Flask

application = Flask(__name__)
application.config.update(DATABASE="/tmp/nowhere.sqlite3")
""",
    "wsgi.py": "from quay.web import application\n",
}

DEEP = {
    "wsgi.py": "from quay.web import application\n",
    "src/quay/__init__.py": "",
    "src/quay/web.py": """from flask import Flask

from quay.setting.up.parts import add_parts

application = Flask(__name__)
add_parts(application)
""",
    "src/quay/setting/__init__.py": "",
    "src/quay/setting/up/__init__.py": "",
    "src/quay/setting/up/parts.py": """from quay.tides import blueprint, pages


def add_parts(application):
    assert pages.today
    application.register_blueprint(blueprint)
""",
    "src/quay/tides/__init__.py": """from flask import Blueprint

blueprint = Blueprint("tides", __name__, url_prefix="/tides")
""",
    "src/quay/tides/pages.py": """from quay.tides import blueprint


@blueprint.get("/")
def today():
    return "High water at noon"
""",
}


class OnProjects(Case):
    def write_all(self, files: dict[str, str]) -> None:
        self.root = self.folder / "host"
        shutil.rmtree(self.root, True)
        for path, text in files.items():
            self.write(f"host/{path}", text)

    def breakwater(self) -> None:
        self.root = self.folder / "host"
        shutil.copytree(HERE / "breakwater" / "host", self.root)

    def sprout(self, *words: str) -> Ran:
        return sprout(*words, "--runtime", RUNTIMES["flask"], cwd=self.root)

    def assert_registered_and_taken_out(self, record: bool) -> None:
        before = tree_of(self.root)
        more = ["--record", "Turn: who text(40)", "--page", "/turns: Turns, shows Turn"] if record else []
        self.assert_ok(self.sprout("new", "Turn list", *(more or ["--page", "/turns: Turns"])))
        self.assert_ok(self.sprout("enable", "turn_list"))
        ran = self.assert_ok(self.sprout("check", "--format", "json"))
        self.assertEqual(ran.json["summary"]["findings"], 0, ran.out)
        served = [one for one in ran.json["setups"][0]["modules"] if one["module"].endswith("turn_list")]
        self.assertEqual(served[0]["ladder"][-1]["state"], "pass")
        folder = next(self.root.rglob("turn_list/tests"))
        words = [str(RUNTIMES["flask"]), "-m", "unittest", "discover", "-s", str(folder), "-t", str(self.imported_from)]
        tested = subprocess.run(words, cwd=self.root, capture_output=True, text=True, timeout=60)
        self.assertEqual(tested.returncode, 0, tested.stderr)
        self.assertIn("registers it", self.assert_ok(self.sprout("enable", "turn_list")).out)
        self.assert_ok(self.sprout("disable", "turn_list"))
        after = tree_of(self.root)
        self.assertEqual({path: after[path] for path in before}, before)
        self.assert_ok(self.sprout("enable", "turn_list"))
        self.assert_ok(self.sprout("remove", "turn_list", *(["--data", "drop"] if record else [])))
        left = {path for path in tree_of(self.root) if not path.endswith(".sqlite3")}
        self.assertEqual(left, set(before))

    @property
    def imported_from(self):
        inner = self.root / "src"
        return inner if inner.is_dir() else self.root

    def test_beside_others_in_a_helper_of_a_package(self):
        self.breakwater()
        self.assert_registered_and_taken_out(record=False)
        self.assert_ok(self.sprout("new", "Turn list", "--page", "/turns: Turns"))
        self.assert_ok(self.sprout("enable", "turn_list"))
        text = (self.root / "quay/__init__.py").read_text()
        self.assertIn("    from quay.turn_list import blueprint as turn_list\n", text)
        self.assertLess(text.index("register_blueprint(tides.bp)"), text.index("register_blueprint(turn_list)"))

    def test_an_application_of_one_file(self):
        self.write_all(ONE_FILE)
        self.assert_registered_and_taken_out(record=True)

    def test_a_blueprint_in_a_file_of_its_package_is_imported_from_there(self):
        bells = 'from flask import Blueprint\n\nbells_bp = Blueprint("bells", __name__)\n\n\n@bells_bp.get("/bells")\n'
        bells += 'def bells():\n    return "<p>Eight bells</p>"\n'
        self.write_all({**ONE_FILE, "bells/__init__.py": "", "bells/pages.py": bells})
        before = tree_of(self.root)
        self.assert_ok(self.sprout("enable", "bells"))
        self.assertEqual(self.assert_ok(self.sprout("check", "bells", "--format", "json")).json["summary"]["served"], 1)
        self.assert_ok(self.sprout("disable", "bells"))
        self.assertEqual(tree_of(self.root), before)

    def test_pages_stand_in_the_layout_of_the_site_and_show_labels(self):
        self.write_all({**ONE_FILE, "templates/layout.html": LAYOUT})
        self.assert_ok(self.sprout("new", "--brief", str(self.write("buoys.toml", BUOYS))))
        self.assert_ok(self.sprout("enable", "buoy_yard"))
        self.assert_ok(self.sprout("check", "buoy_yard"))
        code = (
            "from app import app; from buoy_yard import records\n"
            "with app.app_context(): records.keep('buoy_yard_buoy', light='red', name='North')\n"
            "print(app.test_client().get('/buoys').get_data(as_text=True))"
        )
        ran = subprocess.run([RUNTIMES["flask"], "-c", code], cwd=self.root, capture_output=True, text=True, timeout=60)
        page = " ".join(ran.stdout.split())
        self.assertIn("<title>Buoys &amp; lamps – The quay</title>", page, ran.stderr)
        self.assertRegex(page, r"site\.css\"> <link [^>]*yard\.css\"> </head>")
        self.assertRegex(page, r"<main> ?<div data-module=\"buoy_yard\">.*>Red \{\{ lamp \}\}</a>.*North.*</main>")
        self.assertRegex(page, r"site\.js\"></script> <script [^>]*yard\.js")

    def test_a_factory_of_several_returns_and_no_blueprint_yet(self):
        self.write_all(PACKAGE)
        self.assert_registered_and_taken_out(record=True)
        self.assert_ok(self.sprout("new", "Turn list", "--page", "/turns: Turns"))
        self.assert_ok(self.sprout("enable", "turn_list"))
        lines = (self.root / "quay/__init__.py").read_text().splitlines()
        registered = next(at for at, line in enumerate(lines) if "register_blueprint" in line)
        self.assertLess(registered, next(at for at, line in enumerate(lines) if "if test_config" in line))

    def test_an_application_below_src_without_a_factory(self):
        self.write_all(NO_FACTORY)
        self.assert_registered_and_taken_out(record=False)

    def test_files_that_only_a_deeper_package_imports_are_loaded(self):
        self.write_all(DEEP)
        for words, told in ((["--static"], ""), ([], "served")):
            ran = self.assert_ok(self.sprout("check", *words))
            self.assertNotIn("not-loaded", ran.out)
            self.assertIn(told, ran.out)
        parts = self.root / "src/quay/setting/up/parts.py"
        parts.write_text(parts.read_text().replace(", pages", "").replace("    assert pages.today\n", ""))
        for words in (["--static"], []):
            ran = self.assert_ok(self.sprout("check", *words), 1)
            self.assertIn("routed.not-loaded", ran.out)
            self.assertIn("src/quay/tides/pages.py", ran.out)

    def test_records_want_a_database(self):
        self.breakwater()
        self.assert_ok(self.sprout("new", "Turn list", "--record", "Turn: who text(40)"))
        before = tree_of(self.root)
        ran = self.assert_ok(self.sprout("enable", "turn_list"), 3)
        self.assertIn("DATABASE", ran.err)
        self.assertEqual(tree_of(self.root), before)

    def test_a_module_that_the_file_uses_elsewhere_is_not_taken_out(self):
        self.write_all(ONE_FILE)
        main = self.root / "app.py"
        main.write_text(main.read_text().replace('    return "The quay"', "    return gates.name"))
        before = tree_of(self.root)
        ran = self.assert_ok(self.sprout("disable", "gates"), 4)
        self.assertIn("app.py:15: gates is used there as well", ran.err)
        self.assertEqual(tree_of(self.root), before)

    def test_what_is_no_application_is_not_called_one(self):
        self.write_all({"wsgi.py": "from falcon import App\n\napp = App()\n", "service/__init__.py": ""})
        self.assertIn("no-host", self.assert_ok(sprout("survey", cwd=self.root), 2).err)

    def test_words_in_a_script_make_no_application(self):
        self.write_all({"later.py": "TEXT = 'app = Flask(__name__)'\n", "backend/app.py": ONE_FILE["app.py"]})
        self.write("host/backend/gates.py", ONE_FILE["gates.py"])
        self.assertIn("backend", self.assert_ok(self.sprout("survey", "--format", "json")).json["host"]["root"])
        (self.root / "tries.py").write_text("from flask import Flask\n\napp = Flask(__name__\n")
        told = self.assert_ok(self.sprout("survey", "--format", "json"), 1).json
        self.assertEqual((told["host"]["root"], len(told["missing"])), (str(self.root), 1))

    def test_settings_of_something_else_make_no_application(self):
        self.write_all({".env": "QUAY_PORT=8000\n", "later.py": "TEXT = 'app = Flask(__name__)'\n"})
        self.assertIn("no-host", self.assert_ok(sprout("survey", cwd=self.root, HOME=str(self.folder)), 2).err)

    def test_several_hosts_below_do_not_hide_the_one_that_the_folder_lies_in(self):
        self.write_all({**ONE_FILE, "part/.git/HEAD": "", "part/one/app.py": ONE_FILE["app.py"]})
        self.write("host/part/two/app.py", ONE_FILE["app.py"])
        told = sprout("survey", "--format", "json", "--runtime", RUNTIMES["flask"], cwd=self.root / "part")
        self.assertEqual(told.json["host"]["root"], str(self.root), told.err)

    def test_pipes_among_the_code_hold_nothing_up(self):
        self.write_all(ONE_FILE)
        os.mkfifo(self.root / "later.py")
        for words in (["--static"], []):
            self.assert_ok(self.sprout("check", *words))

    def test_what_stops_the_application_is_told_beside_what_the_settings_say(self):
        self.write_all({**ONE_FILE, ".flaskenv": "FLASK_APP=ap\n"})
        main = self.root / "app.py"
        main.write_text(main.read_text() + "\nraise ValueError('no tide')\n")
        ran = self.assert_ok(self.sprout("check"), 3)
        self.assertIn("enabled.entry-absent", ran.out)
        self.assertIn("enabled.site-stops", ran.out)

    def test_the_host_of_the_project_counts_before_what_lies_above_it(self):
        self.write_all({f"project/backend/{path}": text for path, text in ONE_FILE.items()})
        self.write("host/app.py", ONE_FILE["app.py"])
        project = self.root / "project"
        for end, environment in ((".git", {}), ("", {"HOME": str(self.root)})):
            with self.subTest(end):
                if end:
                    (project / end).mkdir()
                told = sprout("survey", "--format", "json", "--runtime", RUNTIMES["flask"], cwd=project, **environment)
                self.assertTrue(told.json["host"]["root"].endswith("backend"), told.out)
                shutil.rmtree(project / ".git", ignore_errors=True)
        (project / "docs").mkdir()
        (project / "docs/.git").mkdir()
        told = sprout("survey", "--format", "json", "--runtime", RUNTIMES["flask"], cwd=project / "docs")
        self.assertEqual(Path(told.json["host"]["root"]).name, "host")
