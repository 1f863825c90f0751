"""What the trytond and Flask kits generate: whatever the brief holds, every file parses by its syntax's own parser."""

import ast
import configparser
import json
import sqlite3
import unittest
import xml.parsers.expat

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from swift_sprout.core.brief import Brief, brief_from_toml
from swift_sprout.core.errors import WrongUse
from swift_sprout.core.fields import parse_field
from swift_sprout.core.names import name_family
from swift_sprout.core.parts.pages import make_page
from swift_sprout.core.parts.records import Record
from swift_sprout.hosts.contract.kit import HostOptions
from swift_sprout.hosts.kits.flask.host import FlaskHost
from swift_sprout.hosts.kits.flask.kit import KIT as FLASK
from swift_sprout.hosts.kits.trytond.composing.module import generate
from swift_sprout.hosts.kits.trytond.kit import KIT as TRYTOND

from ..support import BRIEFS, Case

HOSTILE = [
    '"',
    "'",
    "\\",
    "{{ x }}",
    "{% x %}",
    "${x}",
    "<?python x?>",
    "%(x)s",
    "%",
    "]]>",
    "&amp;",
    "<b>",
    '"""',
    "\\n",
    "é ß 海",
    "-- drop",
    "';",
]
TEXTS = st.one_of(
    st.sampled_from(HOSTILE), st.text(st.characters(blacklist_categories=["Cs", "Cc"]), min_size=1, max_size=30)
)


def brief_of(text: str, label: str) -> Brief:
    """A brief that says a text wherever a text can be said."""
    quoted = label.replace('"', '""')
    fields = tuple(
        parse_field(line)
        for line in (
            f'name: text(40), unique, label "{quoted}", help "{quoted}"',
            "kind: choice(a, b), default a",
            "lit: yes/no",
            "depth_m: decimal(4,1), default 2.5",
            "since: date, default today",
        )
    )
    record = Record(name_family("Berth"), fields, text, ("-name",))
    pages = (make_page("/berths", text or "x", text, "Berth"), make_page("/about/{word}", text or "x", text))
    return Brief(name_family("Berth register"), text, author=text, records=(record,), pages=pages)


class Syntax(Case):
    def demand(self, files: dict[str, bytes]) -> None:
        for path, content in files.items():
            text = content.decode("utf-8")
            if path.endswith(".py"):
                ast.parse(text, path)
            elif path.endswith((".xml", ".svg")):
                xml.parsers.expat.ParserCreate().Parse(content, True)
            elif path.endswith(".cfg"):
                parser = configparser.ConfigParser()
                parser.read_string(text)
                self.assertEqual(len(dict(parser.items("tryton"))) > 0, True)
            elif path.endswith(".json"):
                json.loads(text)
            elif path.endswith(".sql"):
                sqlite3.connect(":memory:").executescript(text)
            elif path.endswith(".po"):
                import polib

                polib.pofile(text)

    @settings(deadline=None, max_examples=60, suppress_health_check=list(HealthCheck))
    @given(TEXTS, TEXTS)
    def test_trytond_files_parse(self, text, label):
        self.demand(generate(TRYTOND.data, brief_of(text, label)))

    @settings(deadline=None, max_examples=60, suppress_health_check=list(HealthCheck))
    @given(TEXTS, TEXTS)
    def test_flask_files_parse(self, text, label):
        host = FlaskHost(self.folder, FLASK.data, HostOptions())
        self.demand(host.generate("berth_register", brief_of(text, label)))

    def test_the_same_brief_gives_the_same_bytes(self):
        brief = brief_from_toml((BRIEFS / "berth_register.toml").read_text(), "x")
        first = generate(TRYTOND.data, brief)
        self.assertEqual(generate(TRYTOND.data, brief), first)
        self.assertEqual(generate(TRYTOND.data, brief, (brief, first)), first)
        self.demand(first)


class Trytond(unittest.TestCase):
    def files(self, text: str) -> dict[str, str]:
        return {path: content.decode() for path, content in generate(TRYTOND.data, brief_from_toml(text, "x")).items()}

    HEAD = '[module]\nname = "Quay"\n[[record]]\nname = "Berth"\nfields = ["number: text(9)"]\n'

    def test_data_files_stand_in_the_order_in_which_they_need_each_other(self):
        files = self.files((BRIEFS / "berth_register.toml").read_text())
        seen: set[str] = set()
        parser = configparser.ConfigParser()
        parser.read_string(files["tryton.cfg"])
        for name in parser["tryton"]["xml"].split():
            text = files[name]
            ids = [part.split('"')[0] for part in text.split(' id="')[1:]]
            for said in [
                part.split('"')[0] for word in ("ref", "parent", "action") for part in text.split(f' {word}="')[1:]
            ]:
                self.assertTrue("." in said or said in seen or said in ids, f"{name}: {said}")
            seen |= set(ids)

    def test_rights_are_closed_over_the_groups_that_a_group_includes(self):
        files = self.files((BRIEFS / "berth_register.toml").read_text())
        berth = files["berth.xml"].split('id="access_berth_harbour_master"')[1].split("</record>")[0]
        for mode in ("read", "write", "create"):
            self.assertIn(f'name="perm_{mode}" eval="True"', berth)
        self.assertIn('name="perm_delete" eval="False"', berth)
        everybody = files["berth.xml"].split('id="access_berth"')[1].split("</record>")[0]
        self.assertNotIn("True", everybody)

    def test_relations_to_users_to_others_and_to_many(self):
        files = self.files(
            self.HEAD
            + '[[record]]\nname = "Stay"\nfields = ["berth -> Berth (stays)", "clerk -> user, optional", "sailing -> ferries.Sailing, optional", "crew ->> user"]\n'
        )
        self.assertIn('stays = fields.One2Many("quay.stay", "berth", "Stays")', files["berth.py"])
        self.assertIn('"res.user"', files["stay.py"])
        self.assertIn('"ferries.sailing"', files["stay.py"])
        self.assertIn('__name__ = "quay.stay-crew"', files["stay.py"])
        self.assertIn("    ferries\n", files["tryton.cfg"])
        self.assertIn("    stay.StayCrew\n", files["tryton.cfg"])

    def test_a_page_at_the_root_takes_the_place_of_the_front_page(self):
        files = self.files(self.HEAD + '[[page]]\npath = "/"\ntitle = "Quay"\nshows = "Berth"\n')
        self.assertNotIn("templates/front_page.html", files)
        self.assertIn('Rule("", methods={"GET"})', files["routes.py"])

    def test_guards_follow_the_access(self):
        access = {
            "signed in": "*SIGNED_IN",
            "staff": "staff_only",
            "may read Berth": 'needs("quay.berth", "read")',
            "may Close": 'needs_right("quay.berth", "close")',
        }
        for said, spelled in access.items():
            with self.subTest(said):
                files = self.files(
                    self.HEAD + f'[[permission]]\nname = "Close"\n[[page]]\npath = "/x"\naccess = "{said}"\n'
                )
                self.assertIn(spelled, files["routes.py"])

    def test_a_parameter_that_would_hide_a_name_of_the_code_is_refused(self):
        with self.assertRaises(WrongUse) as caught:
            self.files(self.HEAD + '[[page]]\npath = "/x/{pool}/{word}"\n')
        self.assertEqual([problem.what.split("'")[1] for problem in caught.exception.problems], ["pool"])

    def test_two_listeners_of_one_record_share_a_method(self):
        files = self.files(
            self.HEAD
            + '[[listener]]\nname = "One"\non = "record saved"\nof = "Berth"\n[[listener]]\nname = "Two"\non = "record deleted"\nof = "Berth"\n'
            '[[listener]]\nname = "Three"\non = "signed in"\n'
        )
        self.assertEqual(files["listeners.py"].count("def on_modification"), 1)
        self.assertIn('mode == "delete"', files["listeners.py"])
        self.assertIn("return given", files["listeners.py"])

    def test_endpoints_that_write_ask_who_calls(self):
        files = self.files(
            self.HEAD + '[[endpoint]]\npath = "/api"\nshows = "Berth"\nmethods = ["get post put delete"]\n'
        )
        self.assertIn("*SIGNED_IN", files["routes.py"])
        self.assertIn("def sent(request)", files["routes.py"])
        described = json.loads(files["openapi.json"])
        self.assertEqual(set(described["paths"]), {"/{database}/r/quay/api", "/{database}/r/quay/api/{id}"})


class Flask(Case):
    def test_what_flask_has_not_is_refused(self):
        host = FlaskHost(self.folder, FLASK.data, HostOptions())
        for text, said in (
            ('[[page]]\npath = "/x"\naccess = "signed in"\n', "no users"),
            ('[[page]]\npath = "/x"\nshows = "Berth"\nview = "form"\naccess = "anyone"\n', "with Flask-WTF"),
            ('[[endpoint]]\npath = "/x"\nshows = "Berth"\nmethods = ["post"]\n', "no users"),
            ('[[record]]\nname = "Log"\nfields = ["data: json"]\n', "no field of type json"),
            ('[[record]]\nname = "Log"\nfields = ["who -> user"]\n', "to user"),
        ):
            with self.subTest(text), self.assertRaises(WrongUse) as caught:
                host.generate("quay", brief_from_toml(Trytond.HEAD + text, "x"))
            self.assertIn(said, caught.exception.sentence)
