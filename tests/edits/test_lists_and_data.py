"""Lists in INI files and records in XML data: changes carried into files that people have edited since."""

import unittest

from swift_sprout.edits.carrying import NotCarried, carry

CFG = "[tryton]\nversion=1.0.0\ndepends:\n    ir\nxml:\n    berth.xml\n"
XML = """<?xml version="1.0"?>
<tryton>
    <data>
        <record model="m" id="a">
            <field name="x">1</field>
        </record>
        <menuitem id="b" name="B"/>
    </data>
</tryton>
"""


def carried(path: str, current: str, before: str, after: str) -> str:
    return carry(path, current.encode(), before.encode(), after.encode()).decode()


class Ini(unittest.TestCase):
    def test_lines_go_behind_those_that_people_wrote(self):
        here = "# ours\n[tryton]\nversion = 1.0.0\ndepends = ir\n    res\nxml:\n    berth.xml\n    own.xml\n\n[register]\nmodel:\n    own.Own\n"
        after = CFG + "    quay.xml\n\n[register]\nmodel:\n    quay.Quay\nwizard:\n    ask.Ask\n"
        found = carried("tryton.cfg", here, CFG, after)
        self.assertTrue(found.startswith("# ours\n"))
        self.assertIn("    own.xml\n    quay.xml\n", found)
        self.assertIn("    own.Own\n    quay.Quay\n", found)
        self.assertIn("ask.Ask", found)
        self.assertEqual(carried("tryton.cfg", found, CFG, after), found)

    def test_what_is_made_before_another_line_stands_before_it(self):
        found = carried("tryton.cfg", CFG + "    own.xml\n", CFG, CFG.replace("    berth", "    groups.xml\n    berth"))
        self.assertIn("xml:\n    groups.xml\n    berth.xml\n    own.xml\n", found)

    def test_lines_that_are_gone_are_taken_out_and_values_follow(self):
        after = CFG.replace("    berth.xml\n", "    quay.xml\n").replace("1.0.0", "1.1.0")
        found = carried("tryton.cfg", CFG.replace("    ir\n", "    ir\n    own\n"), CFG, after)
        self.assertNotIn("berth.xml", found)
        self.assertIn("quay.xml", found)
        self.assertIn("1.1.0", found)
        self.assertIn("    own\n", found)

    def test_a_value_that_both_changed_is_told(self):
        with self.assertRaises(NotCarried) as caught:
            carried("tryton.cfg", CFG.replace("1.0.0", "3.0.0"), CFG, CFG.replace("1.0.0", "1.1.0"))
        self.assertIn("version", caught.exception.reason)

    def test_a_file_that_is_no_ini_is_told_with_its_line(self):
        with self.assertRaises(NotCarried) as caught:
            carried("tryton.cfg", "depends:\n", CFG, CFG + "    quay.xml\n")
        self.assertEqual(caught.exception.line, 1)


class Data(unittest.TestCase):
    NEW = '        <record model="m" id="c">\n            <field name="x">3</field>\n        </record>\n'

    def test_new_elements_go_to_the_end_of_the_list(self):
        here = XML.replace("<data>", '<data grouped="1"> <!-- ours -->')
        found = carried("berth.xml", here, XML, XML.replace("    </data>", self.NEW + "    </data>"))
        self.assertIn("<!-- ours -->", found)
        self.assertEqual(found.count('id="c"'), 1)
        self.assertLess(found.index('id="b"'), found.index('id="c"'))
        self.assertTrue(found.endswith("    </data>\n</tryton>\n"))

    def test_a_file_that_was_never_made_takes_all(self):
        found = carried("berth.xml", XML, "", XML.replace("    </data>", self.NEW + "    </data>"))
        self.assertEqual(found.count("<record"), 2)

    def test_changed_elements_are_replaced_and_gone_ones_taken_out(self):
        here = XML.replace("<data>", "<data><!-- ours -->")
        after = XML.replace(">1<", ">2<").replace('        <menuitem id="b" name="B"/>\n', "")
        found = carried("berth.xml", here, XML, after)
        self.assertEqual(found, after.replace("<data>", "<data><!-- ours -->"))

    def test_an_element_that_both_changed_is_told_with_its_line(self):
        with self.assertRaises(NotCarried) as caught:
            carried("berth.xml", XML.replace(">1<", ">9<"), XML, XML.replace(">1<", ">2<"))
        self.assertEqual(caught.exception.line, 4)

    def test_views_without_ids_are_merged_by_lines(self):
        view = '<form>\n    <field name="a"/>\n    <field name="b"/>\n</form>\n'
        here = view.replace('    <field name="a"/>\n', '    <field name="a" colspan="4"/>\n')
        found = carried("view/f.xml", here, view, view.replace("</form>", '    <field name="c"/>\n</form>'))
        self.assertIn('colspan="4"', found)
        self.assertIn('name="c"', found)
