"""Reading what a trytond host is made of: manifests, entry points, data files, code, order, its own error texts."""

import ast
import sqlite3
from pathlib import Path

from swift_sprout.hosts.kits.trytond.reading.code import CodeFile
from swift_sprout.hosts.kits.trytond.reading.database import Database
from swift_sprout.hosts.kits.trytond.reading.datafile import DataFile, ViewFile
from swift_sprout.hosts.kits.trytond.reading.entrypoints import entry_points, linked_folders
from swift_sprout.hosts.kits.trytond.reading.inifile import IniFile
from swift_sprout.hosts.kits.trytond.reading.modules import ModuleFiles, order_of
from swift_sprout.hosts.kits.trytond.reading.routes import PROGRAMS, routes_of
from swift_sprout.hosts.kits.trytond.running import reason_of

from ..support import Case


class Manifests(Case):
    def test_lists_with_their_lines_in_every_way_of_writing(self):
        path = self.write(
            "tryton.cfg",
            "[tryton]\nversion = 1.0.0\n# a remark\ndepends: ir\n    res\n\nxml:\n    a.xml\n[register]\nmodel =\n    a.A\n",
        )
        found = IniFile(path)
        self.assertIsNone(found.broken)
        self.assertEqual([(one.text, one.line) for one in found.lines("tryton", "depends")], [("ir", 4), ("res", 5)])
        self.assertEqual(found.text("tryton", "version"), "1.0.0")
        self.assertEqual([one.line for one in found.lines("register", "model")], [11])
        self.assertEqual(found.section_lines["register"], 9)
        self.assertEqual(found.lines("tryton", "absent"), [])

    def test_what_cannot_be_read_is_told_with_its_line(self):
        for text, line in (("depends:\n", 1), ("[tryton]\n]x\n", 2), ("[tryton]\nversion = %(x)s\n", 1)):
            with self.subTest(text):
                found = IniFile(self.write("tryton.cfg", text))
                assert found.broken is not None
                self.assertEqual(found.broken.line, line)
        self.assertIsNotNone(IniFile(self.folder / "absent.cfg").broken)
        latin = self.folder / "latin.cfg"
        latin.write_bytes("[tryton]\nversion = ä\n".encode("latin-1"))
        self.assertIn("UTF-8", IniFile(latin).broken.text)  # type: ignore[union-attr]


class EntryPoints(Case):
    def test_they_are_found_in_every_sort_of_metadata(self):
        self.write(
            "a-1.0.dist-info/entry_points.txt",
            "[console_scripts]\nx = y\n\n[trytond.modules]\na = a\nb = trytond.modules.b\n",
        )
        self.write("c.egg-info/entry_points.txt", "[trytond.modules]\nc = c:thing\n")
        self.write("d-1.0.dist-info/entry_points.txt", "[console_scripts]\nd = d\n")
        found = entry_points([self.folder, self.folder / "absent"])
        self.assertEqual(
            [(one.name, one.package, one.line) for one in found],
            [("a", "a", 5), ("b", "trytond.modules.b", 6), ("c", "c", 2)],
        )
        self.assertEqual(found[0].version, "1.0")

    def test_folders_that_editable_installs_link(self):
        (self.folder / "src").mkdir()
        self.write("x.pth", f"import os\n# no\n{self.folder / 'src'}\n/nowhere\n")
        self.assertEqual(linked_folders(self.folder), [self.folder / "src"])


class DataFiles(Case):
    def test_records_of_one_language_are_told_apart(self):
        text = '<tryton><data language="fr"><record model="a.b" id="x"/></data><data><record model="a.b" id="y"/></data></tryton>'
        found = DataFile(self.write("texts.xml", text))
        self.assertEqual([(one.id, one.language) for one in found.records], [("x", "fr"), ("y", "")])

    def test_records_menu_entries_and_what_they_name(self):
        path = self.write(
            "a.xml",
            '<tryton>\n<data depends="sale, stock">\n<record model="m" id="r" update="1">\n<field name="x" ref="o.y"/>\n'
            '<field name="t">A &amp; B</field>\n<field name="e" eval="1 + 1" pyson="1"/>\n</record>\n</data>\n<data>\n'
            '<menuitem id="menu" parent="ir.menu_administration" action="act" icon="i"/>\n</data></tryton>\n',
        )
        found = DataFile(path)
        record, menu = found.records
        self.assertEqual((record.model, record.id, record.line, record.update), ("m", "r", 3, True))
        self.assertEqual(record.depends, ("sale", "stock"))
        self.assertEqual(record.ref("x"), "o.y")
        self.assertEqual(record.text("t"), "A & B")
        self.assertTrue(record.field("e").pyson)  # type: ignore[union-attr]
        self.assertEqual(
            (menu.model, menu.ref("parent"), menu.ref("action"), menu.text("icon")),
            ("ir.ui.menu", "ir.menu_administration", "act", "i"),
        )
        self.assertEqual(menu.depends, ())

    def test_entities_are_never_resolved(self):
        secret = self.write("secret.txt", "low water at noon")
        for declared in (
            f'<!ENTITY x SYSTEM "file://{secret}">',
            '<!ENTITY x "abc">',
            '<!ENTITY % x SYSTEM "http://127.0.0.1:9/">',
        ):
            with self.subTest(declared):
                path = self.write(
                    "a.xml", f'<!DOCTYPE tryton [{declared}]><tryton><data><record model="m" id="&x;"/></data></tryton>'
                )
                found = DataFile(path)
                self.assertIsNotNone(found.entity)
                self.assertEqual(found.records, [])
                self.assertIsNotNone(ViewFile(path).broken)

    def test_broken_files_tell_their_line(self):
        self.assertEqual(DataFile(self.write("a.xml", "<tryton>\n<data>\n</tryton>")).broken[1], 3)  # type: ignore[index]
        self.assertIsNotNone(DataFile(self.folder / "absent.xml").broken)
        self.assertEqual(ViewFile(self.write("v.xml", "<form>\n<field></form>")).broken[1], 2)  # type: ignore[index]

    def test_what_stands_inside_a_field_is_a_view_of_another_model(self):
        view = ViewFile(
            self.write("v.xml", '<form><field name="a"><tree><field name="b"/></tree></field><button name="c"/></form>')
        )
        self.assertEqual([(one.tag, one.name) for one in view.elements], [("field", "a"), ("button", "c")])


class Code(Case):
    def read(self, text: str) -> CodeFile:
        return CodeFile(self.write("a.py", text))

    def test_classes_fields_and_what_they_name(self):
        found = self.read(
            "from trytond.model import ModelSQL, fields\nfrom trytond.pool import PoolMeta\nfrom .other import Mixin as M\n"
            "class A(ModelSQL):\n    __name__ = 'a.a'\n    x = fields.Many2One('b.b', 'B', required=True)\n"
            "    y = fields.Function(fields.Char('Y'), 'get_y', searcher='search_y')\n    z = fields.One2Many('c.c', 'a', 'C')\n    m = Monetary('M')\n"
            "class B(metaclass=PoolMeta):\n    __name__ = 'b.b'\nclass C(A):\n    pass\n"
        )
        a, b, c = (found.classes[name] for name in "ABC")
        self.assertEqual((a.model, a.sort, a.extends), ("a.a", "model", False))
        self.assertEqual((a.fields["x"].target, a.fields["x"].required), ("b.b", True))
        self.assertEqual(a.fields["y"].methods, ("get_y", "search_y"))
        self.assertEqual((a.fields["z"].target, a.fields["z"].reverse), ("c.c", "a"))
        self.assertIn("m", a.fields)
        self.assertTrue(b.extends)
        self.assertEqual(c.sort, "model")
        self.assertEqual(found.imported["M"], ".other:Mixin")

    def test_names_that_are_put_together_and_names_that_only_running_tells(self):
        found = self.read(
            "SPACE = 'quay'\nWALL = f'{SPACE}.wall'\nTWICE = 'a'\nTWICE = 'b'\n\n\n"
            "class Wall(ModelSQL):\n    __name__ = WALL\n\n\n"
            "class Crack(ModelSQL):\n    __name__ = WALL + '.crack'\n\n\n"
            "class Other(ModelSQL):\n    __name__ = TWICE\n\n\n"
            "class Called(ModelSQL):\n    __name__ = name_of('x')\n\n\n"
            "class Nameless(ModelSQL):\n    pass\n\n\n"
            "try:\n    import office\nexcept ImportError:\n    class Sheet(Report):\n        __name__ = 'quay.sheet'\n"
        ).classes
        self.assertEqual(
            [found[one].model for one in ("Wall", "Crack", "Sheet")], ["quay.wall", "quay.wall.crack", "quay.sheet"]
        )
        self.assertEqual([one.name for one in found.values() if one.name_untold], ["Other", "Called"])

    def test_a_file_that_does_not_parse(self):
        self.assertEqual(self.read("def x(:\n").broken.lineno, 1)  # type: ignore[union-attr]
        self.assertEqual(self.read("x = 1\x00").classes, {})

    def test_routes_with_their_guards(self):
        self.write("tryton.cfg", "[tryton]\n")
        self.write(
            "routes.py",
            "class R(Router):\n    __name__ = 'r'\n    @classmethod\n    def __setup__(cls):\n        super().__setup__()\n"
            "        cls.__routes__.update({'a': Route(Rule('x/<int:n>', methods={'GET', 'POST'}), Rule('/abs'), decorators=[app.auth_required, with_pool])})\n"
            "        cls.__routes__['b'] = Route(Rule(''), Rule('old', redirect_to='new'))\n",
        )
        found = routes_of(ModuleFiles("r", self.folder, [], True))
        self.assertEqual([one.path("db") for one in found], ["/db/r/r/x/<int:n>", "/abs", "/db/r/r"])
        self.assertEqual([one.open_to for one in found], ["people signed in", "people signed in", "anyone"])
        self.assertEqual(set(found[0].methods), {"GET", "POST"})

    def test_a_route_for_programs_is_known_by_the_decorator_that_was_made_beside_it(self):
        self.write(
            "routes.py",
            "gate = user_application('crane')\nclass Cranes(Router):\n    __name__ = 'cranes'\n    def __setup__(cls):\n"
            "        cls.__routes__.update({'a': Route(Rule(''), decorators=[with_pool, gate])})\n",
        )
        self.assertEqual([one.open_to for one in routes_of(ModuleFiles("r", self.folder, [], True))], [PROGRAMS])

    def test_registered_classes_are_followed_over_imports(self):
        self.write(
            "tryton.cfg",
            "[tryton]\n[register]\nmodel:\n    people.Pilot\n    people.Gone\n[register sale]\nwizard:\n    ask.Ask\n",
        )
        self.write("people/__init__.py", "from .pilot import Pilot\n")
        self.write("people/pilot.py", "class Pilot(ModelSQL):\n    __name__ = 'p.pilot'\n")
        module = ModuleFiles("p", self.folder, [], True)
        self.assertEqual(module.registered_class("people.Pilot").model, "p.pilot")  # type: ignore[union-attr]
        self.assertIsNone(module.registered_class("people.Gone"))
        self.assertEqual(
            [(one.sort, one.text, one.depends) for one in module.registered][2],
            ("wizard", "ask.Ask", ("sale",)),
        )

    def test_a_function_registers_as_well_as_a_manifest(self):
        self.write("tryton.cfg", "[tryton]\nversion=1.0\n")
        self.write("pilot.py", "class Pilot(ModelSQL):\n    __name__ = 'p.pilot'\n")
        self.write("ask/__init__.py", "")
        self.write("ask/start.py", "class Ask(Wizard):\n    __name__ = 'p.ask'\n")
        self.write(
            "__init__.py",
            "from trytond.pool import Pool\nfrom . import pilot\nfrom .ask import start\nfrom .ask.start import Ask\n\n\n"
            "class Here(Report):\n    __name__ = 'p.here'\n\n\ndef register():\n"
            "    Pool.register(pilot.Pilot, module='p', type_='model')\n"
            "    Pool.register(start.Ask, Ask, module='q', type_='wizard', depends=['sale'])\n"
            "    Pool.register(Here, module='p', type_='report')\n",
        )
        module = ModuleFiles("p", self.folder, [], True)
        self.assertEqual(
            [(one.sort, one.text, one.depends, one.module, one.line) for one in module.registered],
            [
                ("model", "pilot.Pilot", (), "p", 12),
                ("wizard", "ask.start.Ask", ("sale",), "q", 13),
                ("wizard", "ask.start.Ask", ("sale",), "q", 13),
                ("report", "Here", (), "p", 14),
            ],
        )
        assert module.by_function is not None
        self.assertTrue(module.by_function.sure)
        self.write("__init__.py", "def register():\n    for one in ALL:\n        Pool.register(one, **said)\n")
        worked_out = ModuleFiles("p", self.folder, [], True).by_function
        assert worked_out is not None
        self.assertFalse(worked_out.sure)


class Order(Case):
    def test_the_host_orders_by_depth_and_then_by_name(self):
        needs = {"ir": [], "res": ["ir"], "b": ["res"], "a": ["b"], "c": ["res"], "x": ["nowhere"]}
        self.assertEqual(order_of(needs), ["ir", "res", "x", "b", "c", "a"])

    def test_a_circle_does_not_hang(self):
        self.assertEqual(set(order_of({"a": ["b"], "b": ["a"], "c": ["a"]})), {"a", "b", "c"})


class Databases(Case):
    def test_reading_leaves_no_file_beside_the_database(self):
        path = self.folder / "quay.sqlite"
        connection = sqlite3.connect(path)
        connection.executescript(
            "pragma journal_mode = wal; create table ir_module (name, state); insert into ir_module values ('a', 'activated');"
            "create table ir_configuration (series); insert into ir_configuration values ('8.2');"
        )
        connection.close()
        database = Database(path)
        self.assertEqual(database.states, {"a": "activated"})
        self.assertEqual(database.series, "8.2")
        self.assertEqual(database.count("ir_module"), 1)
        self.assertEqual(database.count('no "such" table'), 0)
        self.assertEqual([one.name for one in self.folder.iterdir()], ["quay.sqlite"])

    def test_a_file_that_is_none(self):
        database = Database(self.write("x.sqlite", "none" * 999))
        self.assertEqual(database.states, {})
        self.assertIn("not a database", database.broken)


class Reasons(Case):
    def test_the_cause_is_named_beside_its_wrapper(self):
        output = (
            "Traceback (most recent call last):\n  File \"x.py\", line 1, in y\nKeyError: 'pilot'\n\nDuring handling …\n\n"
            "Traceback (most recent call last):\ntrytond.convert.ParsingError: in record 'a.b'\n"
        )
        self.assertEqual(reason_of(output), "trytond.convert.ParsingError: in record 'a.b': KeyError: 'pilot'")
        self.assertEqual(reason_of("one\ntwo\n"), "two")
        self.assertEqual(reason_of(""), "it printed nothing")


class Probe(Case):
    def test_the_scripts_that_run_inside_hosts_parse_on_the_oldest_python(self):
        folder = Path(__file__).parents[2] / "src/swift_sprout/hosts"
        probes = [*folder.glob("kits/*/probe/*.py"), *folder.glob("python/inside/*.py")]
        self.assertGreater(len(probes), 10)
        for path in probes:
            ast.parse(path.read_bytes(), feature_version=(3, 10))
