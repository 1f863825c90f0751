"""The small editors, one for each syntax: what is put in stands there, everything else stays, twice is once."""

from __future__ import annotations

import configparser
import json
import tomllib
import unittest

from swift_sprout.edits import ini, toml, xml
from swift_sprout.edits import json as json_editor
from swift_sprout.edits.carrying import NotCarried
from swift_sprout.edits.catalogue import carry_catalogue, compiled


class Json(unittest.TestCase):
    text = '{\n    "berths": [1, 2],\n    "quays": {},\n    "town": "Brindle \\"Quay\\""\n}\n'

    def test_values_go_into_lists_and_objects(self):
        text = json_editor.put(self.text, ("berths",), None, 3)
        self.assertIn("[1, 2, 3]", text)
        text = json_editor.put(text, ("quays",), "north", {"depth": 4})
        text = json_editor.put(text, (), "tide", ["high", "low"])
        self.assertEqual(json.loads(text)["quays"], {"north": {"depth": 4}})
        self.assertEqual(json.loads(text)["tide"], ["high", "low"])
        self.assertIn('\n    "quays": {\n        "north": {\n', text)
        self.assertTrue(text.startswith('{\n    "berths": [1, 2, 3],\n'))

    def test_twice_is_once(self):
        once = json_editor.put(self.text, ("quays",), "north", 1)
        self.assertEqual(json_editor.put(once, ("quays",), "north", 1), once)
        self.assertEqual(json_editor.put(self.text, ("berths",), None, 2), self.text)

    def test_flat_and_tabbed_texts_keep_their_form(self):
        self.assertEqual(json_editor.put('{"a": 1}', (), "b", [2]), '{"a": 1, "b": [2]}')
        self.assertIn('\n\t"b": 2\n', json_editor.put('{\n\t"a": 1\n}', (), "b", 2))

    def test_a_broken_text_names_its_line(self):
        with self.assertRaises(NotCarried) as caught:
            json_editor.put('{\n  "a": 1,\n}', (), "b", 2)
        self.assertEqual(caught.exception.line, 3)
        with self.assertRaises(NotCarried):
            json_editor.put(self.text, ("berth",), None, 1)
        with self.assertRaises(NotCarried):
            json_editor.put(self.text, ("town",), "x", 1)

    def test_a_change_is_carried_where_it_only_adds(self):
        before, after = '{"a": {"x": 1}, "l": ["p"]}', '{"a": {"x": 1, "y": 2}, "l": ["p", "q"]}'
        carried = json_editor.carry_json('{\n  "mine": 0,\n  "a": {"x": 9},\n  "l": ["p"]\n}', before, after)
        self.assertEqual(json.loads(carried), {"mine": 0, "a": {"x": 9, "y": 2}, "l": ["p", "q"]})
        with self.assertRaises(NotCarried):
            json_editor.carry_json('{"a": 1}', '{"a": 1}', '{"a": 2}')


class Toml(unittest.TestCase):
    text = (
        '# the brief\nformat = "f"\n\n[[record]]\nname = "Berth"  # a place\n'
        '\n# what people see\n[[page]]\npath = "/berths"\n'
    )

    def test_a_table_goes_behind_the_last_of_its_name(self):
        text = toml.add_table(self.text, "record", '[[record]]\nname = "Booking"\n')
        self.assertIn('# a place\n\n[[record]]\nname = "Booking"\n\n# what people see\n', text)
        self.assertEqual(toml.add_table(text, "record", '[[record]]\nname = "Booking"\n'), text)

    def test_the_first_of_its_name_goes_to_the_end(self):
        text = toml.add_table(self.text, "menu", '[[menu]]\ntitle = "A"\n')
        self.assertTrue(text.endswith('path = "/berths"\n\n[[menu]]\ntitle = "A"\n'))

    def test_line_ends_and_texts_that_look_like_headers(self):
        text = self.text.replace("\n", "\r\n")
        added = toml.add_table(text, "page", '[[page]]\npath = "/x"\n')
        self.assertNotIn("\n", added.replace("\r\n", ""))
        tricky = '[[page]]\ntext = """\n[[page]]\npath = 1\n"""\n'
        added = toml.add_table(tricky, "page", '[[page]]\ntext = "b"\n')
        self.assertEqual(tomllib.loads(added)["page"], [{"text": "[[page]]\npath = 1\n"}, {"text": "b"}])

    def test_a_broken_text_names_its_line(self):
        with self.assertRaises(NotCarried) as caught:
            toml.add_table("a = 1\nb = \n", "page", '[[page]]\npath = "/x"\n')
        self.assertEqual(caught.exception.line, 2)


class Ini(unittest.TestCase):
    text = "; the module\n[tide]\nversion = 1\nparts:\n    a.xml\n    b.xml\n\n[other]\nx = 1\n"

    def test_lines_and_options_keep_comments(self):
        text = ini.add_line(self.text, "tide", "parts", "c.xml")
        self.assertIn("    b.xml\n    c.xml\n", text)
        self.assertEqual(ini.add_line(text, "tide", "parts", "c.xml"), text)
        self.assertTrue(text.startswith("; the module\n"))
        read = configparser.ConfigParser()
        read.read_string(text)
        self.assertEqual((read["other"]["x"], read["tide"]["parts"].split()), ("1", ["a.xml", "b.xml", "c.xml"]))
        self.assertIn("new", ini.add_line(text, "fresh", "parts", "new"))

    def test_a_broken_text_is_refused(self):
        with self.assertRaises(NotCarried):
            ini.add_line("no section\n", "a", "b", "c")


class Xml(unittest.TestCase):
    def test_elements_are_told_with_their_places(self):
        text = "<host>\n  <!-- <data> -->\n  <data a='1'>\n    <record id=\"ü\"/>\n  </data>\n</host>\n"
        host, data, record = xml.elements(text)
        self.assertEqual([one.name for one in (host, data, record)], ["host", "data", "record"])
        self.assertEqual((data.attributes, record.attributes), ((("a", "1"),), (("id", "ü"),)))
        raw = text.encode("utf-8")
        self.assertTrue(raw[record.start :].startswith(b"<record"))
        self.assertTrue(raw[data.inside :].startswith(b"</data>"))
        self.assertEqual((record.parent, record.inside), (1, -1))

    def test_own_entities_and_broken_texts_are_refused(self):
        for text in (
            '<!DOCTYPE host [<!ENTITY e SYSTEM "file:///etc/hostname">]>\n<host>&e;</host>',
            "<host>\n<data>\n</host>",
        ):
            with self.subTest(text=text), self.assertRaises(NotCarried):
                xml.elements(text)


class Catalogues(unittest.TestCase):
    text = '# by hand\nmsgid ""\nmsgstr ""\n"Language: de\\n"\n\nmsgid "Berth"\nmsgstr "Liegestelle"\n\nmsgid "Quay"\nmsgstr ""\n'
    after = 'msgid ""\nmsgstr ""\n\nmsgid "Berth"\nmsgstr "Liegeplatz"\n\nmsgid "Quay"\nmsgstr "Kai"\n\nmsgid "Tide"\nmsgstr ""\n'

    def test_what_translators_wrote_stays_and_gaps_are_filled(self):
        carried = carry_catalogue(self.text, self.after)
        self.assertIn('msgid "Berth"\nmsgstr "Liegestelle"\n', carried)
        self.assertIn('msgid "Quay"\nmsgstr "Kai"\n', carried)
        self.assertTrue(carried.startswith("# by hand\n"))
        self.assertTrue(carried.endswith('msgid "Tide"\nmsgstr ""\n'))
        self.assertEqual(carry_catalogue(carried, self.after), carried)

    def test_the_compiled_form_holds_the_translations(self):
        self.assertIn(b"Liegestelle", compiled(self.text.encode()))
        with self.assertRaises(ValueError):
            compiled(b'msgid "a"\nmsgstr "b"\nnonsense\n')
