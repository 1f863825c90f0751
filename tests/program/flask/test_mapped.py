"""Sites with an object mapper: records are its classes, tables are led by the site's revisions, forms are Flask-WTF's.

The hosts are written by hand: one with revisions, one file alone, and a package below src.
"""

import sqlite3
import subprocess
import sys
from pathlib import Path

from trials.recipes import HOSTS

from ...support import Case, Ran, sprout, tree_of

RUNTIME = HOSTS / "flask-3.1-extensions/bin/python"

WITH_REVISIONS = {
    "wsgi.py": """from quay import create_app

app = create_app()
""",
    "quay/extensions.py": """from flask_migrate import Migrate
from flask_sqlalchemy import SQLAlchemy
from flask_wtf import CSRFProtect

db = SQLAlchemy()
migrate = Migrate()
csrf = CSRFProtect()
""",
    "quay/__init__.py": """import os
from pathlib import Path

from flask import Flask

from .blueprints import register_blueprints
from .extensions import csrf, db, migrate


def create_app(config=None):
    app = Flask(__name__)
    here = Path(__file__).parent.parent
    app.config["SECRET_KEY"] = "only-here"
    app.config["SQLALCHEMY_DATABASE_URI"] = os.environ.get("DATABASE_URL", f"sqlite:///{here / 'quay.sqlite3'}")
    if config:
        app.config.update(config)
    db.init_app(app)
    migrate.init_app(app, db)
    csrf.init_app(app)
    register_blueprints(app)
    return app
""",
    "quay/blueprints.py": """def register_blueprints(app):
    from .berths import bp as berths

    app.register_blueprint(berths, url_prefix="/berths")
""",
    "quay/berths/__init__.py": """from flask import Blueprint

bp = Blueprint("berths", __name__)

from . import routes  # noqa: E402, F401
""",
    "quay/berths/models.py": """from ..extensions import db


class Berth(db.Model):
    __tablename__ = "berths"

    id = db.Column(db.Integer, primary_key=True)
    name = db.Column(db.String(40), nullable=False)
    asked = db.Column(db.Integer, nullable=False, default=0)
""",
    "quay/berths/routes.py": """from flask import render_template

from ..extensions import db
from . import bp
from .models import Berth


@bp.get("/")
def index():
    for berth in db.session.scalars(db.select(Berth)):
        berth.asked += 1
    db.session.commit()
    return render_template("berths.html", berths=db.session.scalars(db.select(Berth)).all())
""",
    "quay/templates/base.html": """<!doctype html>
<html lang="en">
<head><title>{% block title %}Brindle Quay{% endblock %}</title></head>
<body>
<main>{% block content %}{% endblock %}</main>
</body>
</html>
""",
    "quay/templates/berths.html": """{% extends "base.html" %}
{% block content %}
<h1>Berths</h1>
<ul>{% for berth in berths %}<li>{{ berth.name }}</li>{% endfor %}</ul>
{% endblock %}
""",
    "migrations/env.py": """from alembic import context
from flask import current_app

db = current_app.extensions["migrate"].db

with db.engine.connect() as connection:
    context.configure(connection=connection, target_metadata=db.metadata, render_as_batch=True)
    with context.begin_transaction():
        context.run_migrations()
""",
    "migrations/alembic.ini": """[alembic]
""",
    "migrations/versions/1f0c2a7be401_berths.py": '''"""Berths."""

import sqlalchemy as sa
from alembic import op

revision = "1f0c2a7be401"
down_revision = None


def upgrade():
    op.create_table(
        "berths",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(40), nullable=False),
        sa.Column("asked", sa.Integer(), nullable=False),
    )


def downgrade():
    op.drop_table("berths")
''',
}
ONE_FILE = {
    "store.py": """from flask_sqlalchemy import SQLAlchemy

store = SQLAlchemy()
""",
    "app.py": """from pathlib import Path

from flask import Flask

from store import store

app = Flask(__name__)
app.config["SQLALCHEMY_DATABASE_URI"] = f"sqlite:///{Path(__file__).parent / 'quay.sqlite3'}"
store.init_app(app)


@app.get("/")
def front():
    return "The quay"
""",
}
BELOW_SRC = {
    ".flaskenv": "FLASK_APP=quay\n",
    "src/quay/__init__.py": """from pathlib import Path

from flask import Flask
from flask_sqlalchemy import SQLAlchemy
from sqlalchemy.orm import DeclarativeBase


class Base(DeclarativeBase):
    pass


db = SQLAlchemy(model_class=Base)


def create_app(config=None):
    app = Flask(__name__)
    app.config["SQLALCHEMY_DATABASE_URI"] = f"sqlite:///{Path(__file__).parent / 'quay.sqlite3'}"
    app.config.update(config or {})
    db.init_app(app)

    from .gates import gates

    app.register_blueprint(gates, url_prefix="/gates")
    return app
""",
    "src/quay/gates/__init__.py": """from flask import Blueprint

gates = Blueprint("gates", __name__)


@gates.get("/")
def every_gate():
    return "Two gates"
""",
}
BRIEF = """[module]
name = "Crane book"
summary = "Who lifts & when"

[[record]]
name = "Crane"
fields = [
  "name: text(40), unique, help \\"As painted\\"",
  "kind: choice(fixed, rail, \\"on land\\"), default fixed",
  "reach: decimal(5,1), default 2.5",
  "load: number, optional",
  "hooks: integer, default 1",
  "lit: yes/no, default yes",
  "since: date, default today",
  "seen: datetime, optional",
  "rests_at: time, optional",
  "mail: email, optional, unique",
  "page: link, optional",
  "short: slug, optional",
  "note: long text, optional",
  "next -> Crane (before), optional",
]
order_by = ["-name"]

[[record]]
name = "Lift"
fields = [
  "crane -> Crane (lifts)",
  "spare -> Crane (spared), optional",
  "what: text(4)",
  "mark: uuid, optional",
  "at: datetime, default now",
]

[[page]]
path = "/cranes"
title = "Cranes of 'the' quay & more"
shows = "Crane"

[[page]]
path = "/lifts"
title = "Lifts"
shows = "Lift"

[[page]]
path = "/cranes/about"
title = "About"
text = "All {{ of }} them"

[[endpoint]]
path = "/api/lifts"
title = "Lifts"
shows = "Lift"

[[endpoint]]
path = "/api/cranes"
title = "Cranes"
shows = "Crane"

[[command]]
name = "List cranes"
lists = "Crane"
positional = ["name: text"]
named = ["limit: integer, optional", "kind: choice(fixed, rail), optional"]
"""
FORM = """
[[page]]
path = "/cranes/new"
title = "A new crane"
shows = "Crane"
view = "form"
access = "anyone"
"""


WITH_A_FORM = {
    "quay/berths/keeping.py": """from flask import redirect, render_template, request
from flask_wtf import FlaskForm
from wtforms import StringField
from wtforms.validators import DataRequired

from ..extensions import db
from . import bp
from .models import Berth


class BerthForm(FlaskForm):
    name = StringField(validators=[DataRequired()])


@bp.route("/new", methods=["GET", "POST"])
def new_berth():
    form = BerthForm()
    if form.validate_on_submit():
        db.session.add(Berth(name=form.name.data, asked=len(request.form["name"])))
        db.session.commit()
        return redirect("/berths/")
    return render_template("new_berth.html", form=form)
""",
}


class Mapped(Case):
    def setUp(self) -> None:
        super().setUp()
        self.root = self.folder / "site"

    def write_all(self, files: dict[str, str]) -> None:
        for path, text in files.items():
            self.write(f"site/{path}", text)

    def sprout(self, *words: str | Path, **environment: str) -> Ran:
        return sprout(*words, "--runtime", RUNTIME, cwd=self.root, **environment)

    def python(self, *words: str, at: Path | None = None) -> subprocess.CompletedProcess[str]:
        return subprocess.run([RUNTIME, *words], cwd=at or self.root, capture_output=True, text=True, timeout=60)

    def rows(self, statement: str) -> list[tuple[object, ...]]:
        with sqlite3.connect(next(self.root.rglob("quay.sqlite3"))) as connection:
            return connection.execute(statement).fetchall()

    def with_berths(self) -> None:
        self.write_all(WITH_REVISIONS)
        self.assertEqual(self.python("-m", "flask", "--app", "wsgi", "db", "upgrade").returncode, 0)
        self.rows("insert into berths (name, asked) values ('North', 0)")

    def made(self, brief: str, served: int) -> Path:
        """Make the module of a brief, switch it on, and prove it; returns its folder."""
        self.assert_ok(self.sprout("new", "--brief", self.write("crane_book.toml", brief)))
        self.assert_ok(self.sprout("enable", "crane_book"))
        ran = self.assert_ok(self.sprout("check", "--format", "json"))
        self.assertEqual(ran.json["summary"]["findings"], 0, ran.out)
        self.assertEqual(ran.json["summary"]["served"], served)
        self.assert_reviewed()
        return self.own

    @property
    def own(self) -> Path:
        return next(self.root.rglob("crane_book/models.py")).parent

    def assert_reviewed(self) -> None:
        top = self.root / "src" if (self.root / "src").is_dir() else self.root
        ran = self.python("-m", "unittest", "discover", "-s", str(self.own / "tests"), "-t", str(top))
        self.assertEqual(ran.returncode, 0, ran.stderr)
        for words in ("check --select E,F,I,B,UP --ignore E402,I001", "format --check"):
            ruff = [sys.executable, "-m", "ruff", *words.split(), "--isolated", str(self.own)]
            checked = subprocess.run(ruff, capture_output=True, text=True)
            self.assertEqual(checked.returncode, 0, checked.stdout)

    def test_with_revisions_and_forms_the_whole_story(self):
        self.with_berths()
        before = tree_of(self.root)
        self.made(BRIEF + FORM, served=2)
        checked = self.python("-m", "flask", "--app", "wsgi", "db", "check")
        self.assertEqual(checked.returncode, 0, checked.stdout + checked.stderr)

        brief = self.own / "sprout.toml"
        text = brief.read_text().replace('"what: text(4)"', '"goods: text(4)"')
        brief.write_text(text.replace('"hooks: integer, default 1"', '"hooks: integer, default 1", "idle: yes/no"'))
        self.assert_ok(self.sprout("refresh", "crane_book"))
        self.assert_ok(self.sprout("add", "record", "Yard: name text(30), crane -> Crane", "--to", "crane_book"))
        self.assert_ok(self.sprout("settle"))
        self.assert_ok(self.sprout("check"))
        self.assert_reviewed()
        self.rows("insert into crane_book_yard (name, crane_id) select 'North', id from crane_book_crane")
        kept = self.rows("select count(*) from crane_book_yard")
        brief.write_text(brief.read_text().replace('"Yard"', '"Depot"'))
        ran = self.assert_ok(self.sprout("refresh", "crane_book"))
        self.assertIn("Yard is Depot now: its table keeps its rows", " ".join(ran.out.split()))
        self.assert_ok(self.sprout("settle"))
        self.assertEqual(self.rows("select count(*) from crane_book_depot"), kept)
        self.assert_ok(self.sprout("check"))
        for words in (("check",), ("downgrade", "1f0c2a7be401"), ("upgrade",)):
            led = self.python("-m", "flask", "--app", "wsgi", "db", *words)
            self.assertEqual(led.returncode, 0, led.stdout + led.stderr)
        self.assertIn("goods", {row[1] for row in self.rows("pragma table_info(crane_book_lift)")})

        ran = self.assert_ok(self.sprout("remove", "crane_book", "--data", "drop"), 4)
        self.assertIn("led-by-revisions", ran.err)
        self.assert_ok(self.sprout("disable", "crane_book"))
        after = tree_of(self.root)
        same = {path for path in before if not path.endswith(".sqlite3")}
        self.assertEqual({path: after[path] for path in same}, {path: before[path] for path in same})
        self.assert_ok(self.sprout("undo"))
        self.assert_ok(self.sprout("check"))

    def test_one_file_alone_makes_its_tables_by_the_modules_command(self):
        self.write_all(ONE_FILE)
        self.made(BRIEF, served=1)
        self.assertIn("from store import store", (self.own / "models.py").read_text())
        self.assert_ok(self.sprout("remove", "crane_book", "--data", "drop"))
        self.assertEqual(self.rows("select name from sqlite_master where name like 'crane_book%'"), [])
        self.assert_ok(self.sprout("undo"))
        self.assertIn("swift-sprout settle crane_book", self.assert_ok(self.sprout("check"), 1).out)
        self.assert_ok(self.sprout("settle", "crane_book"))
        self.assert_ok(self.sprout("check"))

    def test_below_src_with_a_base_of_its_own(self):
        self.write_all(BELOW_SRC)
        self.made(BRIEF, served=2)

    def test_a_mapper_that_modules_would_ask_for_in_a_circle_is_refused(self):
        self.write_all(ONE_FILE)
        app = self.root / "app.py"
        app.write_text(
            app.read_text()
            .replace("from store import store", "from flask_sqlalchemy import SQLAlchemy")
            .replace("store.init_app(app)", "store = SQLAlchemy(app)")
        )
        (self.root / "store.py").unlink()
        before = tree_of(self.root)
        ran = self.assert_ok(self.sprout("new", "--brief", self.write("crane_book.toml", BRIEF)), 4)
        self.assertIn("mapper-circular", ran.err)
        self.assertIn("store.init_app(app)", " ".join(ran.err.split()))
        self.assertEqual(tree_of(self.root), before)
        self.assert_ok(self.sprout("new", "Bell", "--page", "/bell: Bell"))

    def test_a_module_that_keeps_rows_goes_on_with_them_when_the_site_gets_a_mapper(self):
        self.write_all(ONE_FILE)
        app = self.root / "app.py"
        mapped = app.read_text()
        (self.root / "store.py").rename(self.root / "store.txt")
        plain = mapped.replace("from store import store\n\n", "").replace("store.init_app(app)\n", "")
        app.write_text(plain.replace('["SQLALCHEMY_DATABASE_URI"] = f"sqlite:///', '["DATABASE"] = f"'))
        self.assert_ok(
            self.sprout("new", "Bell", "--record", "Ring: who text(20)", "--page", "/rings: Rings, shows Ring")
        )
        self.assert_ok(self.sprout("enable", "bell"))
        (self.root / "store.txt").rename(self.root / "store.py")
        text = app.read_text().replace(
            "from flask import Flask\n", "from flask import Flask\n\nfrom store import store\n"
        )
        uri = 'app.config["SQLALCHEMY_DATABASE_URI"] = f"sqlite:///{Path(__file__).parent / \'other.sqlite3\'}"\n'
        app.write_text(text.replace("\n@app.get", f"\n{uri}store.init_app(app)\n\n\n@app.get", 1))
        self.assertIn("as its brief says", self.assert_ok(self.sprout("refresh", "bell")).out)
        self.assert_ok(self.sprout("add", "record", "Rope: name text(9)", "--to", "bell"))
        self.assertIn("bell_rope", (self.root / "bell/schema.sql").read_text())
        self.assert_ok(self.sprout("settle", "bell"))
        self.assert_ok(self.sprout("check"))

    def test_forms_need_the_library_for_them(self):
        self.write_all(ONE_FILE)
        ran = self.assert_ok(self.sprout("new", "--brief", self.write("crane_book.toml", BRIEF + FORM)), 2)
        self.assertIn("Flask-WTF", ran.err)

    def test_a_record_named_like_another_one_is_refused(self):
        self.with_berths()
        before = tree_of(self.root)
        ran = self.assert_ok(self.sprout("new", "Berth book", "--record", "Berth: name text(9)"), 4)
        self.assertIn("record-taken", ran.err)
        self.assertIn("quay/berths/models.py", ran.err)
        self.assertEqual(tree_of(self.root), before)

    def test_several_heads_and_rows_without_a_value_are_refused(self):
        self.with_berths()
        self.made(BRIEF, served=2)
        brief = self.own / "sprout.toml"
        brief.write_text(brief.read_text().replace('"what: text(4)"', '"what: text(4)", "tons: integer"'))
        self.assertIn("field-without-value", self.assert_ok(self.sprout("refresh", "crane_book"), 2).err)
        first = self.root / "migrations/versions/1f0c2a7be401_berths.py"
        (first.parent / "2f0c2a7be401_other.py").write_text(
            first.read_text().replace('revision = "1f0c2a7be401"', 'revision = "2f0c2a7be401"')
        )
        brief.write_text(brief.read_text().replace('"tons: integer"', '"tons: integer, optional"'))
        self.assertIn("several-heads", self.assert_ok(self.sprout("refresh", "crane_book"), 4).err)

    def test_a_check_writes_nothing_into_the_database(self):
        self.with_berths()
        self.assert_ok(self.sprout("check"))
        self.assertEqual(self.rows("select asked from berths"), [(0,)])

    def test_nor_does_one_of_a_site_that_opens_its_files_by_itself(self):
        self.write_all(
            {
                "app.py": """import sqlite3
from pathlib import Path

from flask import Flask
from sqlalchemy import create_engine, text

HERE = Path(__file__).parent
app = Flask(__name__)
engine = create_engine(f"sqlite:///{HERE / 'quay.sqlite3'}")
with sqlite3.connect(f"file:{HERE / 'quay.sqlite3'}?mode=rw", uri=True) as connection:
    COUNT = connection.execute("select count(*) from asked").fetchone()[0]


@app.get("/plain")
def plain():
    with sqlite3.connect(HERE / "quay.sqlite3") as connection:
        connection.execute("insert into asked values ('plain')")
        return str(connection.execute("select count(*) from asked").fetchone()[0] - COUNT)


@app.get("/engine")
def by_engine():
    with engine.begin() as connection:
        connection.execute(text("insert into asked values ('engine')"))
    with engine.connect() as connection:
        return connection.execute(text("select who from asked where who = 'engine'")).scalar_one()
"""
            }
        )
        with sqlite3.connect(self.root / "quay.sqlite3") as connection:
            connection.execute("create table asked (who text)")
        ran = self.assert_ok(self.sprout("check", "--format", "json"))
        self.assertEqual(ran.json["summary"]["findings"], 0, ran.out)
        self.assertEqual(self.rows("select * from asked"), [])
        (self.root / "quay.sqlite3").unlink()
        self.assertIn("unable to open database file", self.assert_ok(self.sprout("check"), 3).out)
        self.assertFalse((self.root / "quay.sqlite3").exists())

    def test_what_the_database_lacks_is_told_at_the_record(self):
        self.with_berths()
        models = self.root / "quay/berths/models.py"
        healthy = models.read_text()
        models.write_text(healthy + '    quay = db.Column(db.String(9), default="")\n')
        self.assert_first("installed.mapped-column-absent", "quay/berths/models.py", "db migrate")
        models.write_text(healthy)
        self.rows("drop table berths")
        self.assert_first("installed.mapped-table-absent", "quay/berths/models.py", "db upgrade")
        down = {"DATABASE_URL": f"sqlite:///{self.root}/nowhere/quay.sqlite3"}
        self.assert_first("installed.database-down", "quay/extensions.py", "start it", **down)

    def test_tables_that_the_first_page_makes_are_there(self):
        self.write_all(BELOW_SRC)
        gates = self.root / "src/quay/gates/__init__.py"
        text = gates.read_text().replace("import Blueprint\n", "import Blueprint\n\nfrom .. import db\n")
        gates.write_text(
            text.replace("@gates.get", "class Gate(db.Model):\n    id = db.Column(db.Integer, primary_key=True)\n\n\n@gates.get")
            .replace('    return "Two gates"', "    db.create_all()\n    return str(db.session.query(Gate).count())")
        )  # fmt: skip
        ran = self.assert_ok(self.sprout("check", "--format", "json"))
        self.assertEqual(ran.json["summary"]["findings"], 0, ran.out)
        self.assertEqual(list(self.root.rglob("quay.sqlite3")), [])

    def test_other_classes_of_the_same_name_are_no_records(self):
        self.write_all(ONE_FILE)
        self.write("site/shapes.py", "class BaseModel:\n    pass\n\n\nclass Crane(BaseModel):\n    pass\n")
        self.assert_ok(self.sprout("new", "--brief", self.write("crane_book.toml", BRIEF)))
        self.write("site/older.py", "from store import store\n\n\nclass Kept(store.Model):\n    __abstract__ = True\n\n\nclass Boat(Kept):\n    pass\n")  # fmt: skip
        ran = self.assert_ok(self.sprout("new", "Boats", "--record", "Boat: name text(9)"), 4)
        self.assertIn("record-taken", ran.err)

    def test_forms_are_sent_and_nothing_of_it_stays(self):
        self.with_berths()
        page = '<!doctype html>\n<form method="post">{{ form.hidden_tag() }}{{ form.name }}<button>Keep</button></form>'
        self.write_all({**WITH_A_FORM, "quay/templates/new_berth.html": page})
        routes, template = self.root / "quay/berths/routes.py", self.root / "quay/templates/new_berth.html"
        routes.write_text(routes.read_text() + "\n\nfrom . import keeping  # noqa: E402, F401\n")
        self.assert_ok(self.sprout("check"))
        self.assertEqual(self.rows("select name from berths"), [("North",)])

        template.write_text(page.replace("{{ form.hidden_tag() }}", ""))
        self.assert_first("served.form-without-token", "quay/templates/new_berth.html", "hidden_tag")
        template.write_text(page)
        keeping = self.root / "quay/berths/keeping.py"
        healthy = keeping.read_text()
        for old, new in (("form.name.data", "form.nmae.data"), ('request.form["name"]', 'request.form["called"]')):
            keeping.write_text(healthy.replace(old, new))
            self.assert_first("served.form-breaks", "quay/berths/keeping.py", "keeping.py")
        keeping.write_text(healthy.replace(', methods=["GET", "POST"]', ""))
        self.assert_first("routed.form-refused", "quay/templates/new_berth.html", "berths.new_berth")

    def test_records_that_do_not_fit_together_are_told_once_at_the_relation(self):
        self.with_berths()
        models = self.root / "quay/berths/models.py"
        healthy = models.read_text()
        models.write_text(healthy + '    gates = db.relationship("Gaet")\n')
        ran = self.assert_first("enabled.records-broken", "quay/berths/models.py", "the relation")
        self.assertIn(f"models.py:{len(healthy.splitlines()) + 1}", ran.out)
        self.assertEqual(self.rows("select asked from berths"), [(0,)])

    def assert_first(self, code: str, file: str, told: str, **environment: str) -> Ran:
        ran = self.assert_ok(self.sprout("check", "--format", "json", **environment), 1)
        setup = ran.json["setups"][0]
        found = [*setup["findings"], *(one for module in setup["modules"] for one in module["findings"])]
        first = [one for one in found if not one["follows_from"]]
        self.assertEqual([(one["code"], one["file"]) for one in first], [(code, file)])
        self.assertIn(told, first[0]["mend"])
        return self.sprout("check", **environment)
