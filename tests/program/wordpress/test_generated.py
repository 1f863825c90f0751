"""A module with every kind of field and part that WordPress carries, made, activated and tested on the real host."""

from pathlib import Path

from ...support import WordPressCase, tree_of
from ..trytond.test_generated import EVERYTHING

NASTY = 'It\'s \\\\ a \\"$berth\\" ?> <?php echo 1; */ {$x} %s «quay»'
MORE = f"""
[[listener]]
name = "Note a request"
on = "request finished"

[[page]]
path = "/nasty"
title = "{NASTY}"
text = "{NASTY}"
"""


class Everything(WordPressCase):
    def make(self) -> Path:
        brief = self.write("chandlery.toml", EVERYTHING.replace("Ropes, ", f"{NASTY} Ropes, ") + MORE)
        self.assert_ok(self.sprout("new", "--brief", brief, "-q"))
        return self.site / self.modules / "chandlery"

    def test_it_is_made_activated_served_and_its_own_tests_pass(self):
        self.make()
        self.assert_ok(self.sprout("enable", "chandlery", "-q"))
        checked = self.assert_ok(self.sprout("check", "--format", "json"))
        self.assertEqual(checked.json["summary"]["findings"], 0, checked.out)
        self.assertEqual(set(self.ladder(checked, "chandlery").values()), {"pass"})
        self.assert_ok(self.sprout("settle", "chandlery", "--samples"))
        checked = self.assert_ok(self.sprout("check", "chandlery", "--format", "json"))
        self.assertEqual(checked.json["summary"]["findings"], 0, checked.out)
        tests = self.php(f"{self.modules}/chandlery/tests/run.php")
        self.assertEqual(tests.returncode, 0, tests.stdout[-3000:] + tests.stderr)
        self.assertEqual(self.in_host("echo count( Chandlery\\Records\\Sale::all() );"), "1")
        german = "add_filter( 'plugin_locale', static fn() => 'de_DE' ); unload_textdomain( 'chandlery' );"
        said = self.in_host(f"{german} Chandlery\\Module::load_texts(); echo Chandlery\\Records\\Article::title();")
        self.assertEqual(said, "Ware")

    def test_texts_of_all_sorts_are_harmless_and_come_out_as_they_went_in(self):
        self.make()
        self.assert_ok(self.sprout("enable", "chandlery", "-q"))
        shown = self.in_host(
            "$_SERVER['REQUEST_URI'] = '/chandlery/nasty/'; ob_start(); $wp_query->set( 'chandlery_page', 'nasty' );"
            " include Chandlery\\Pages::template( '' ); echo html_entity_decode( ob_get_clean(), ENT_QUOTES );"
        )
        self.assertIn('It\'s \\ a "$berth" ?> <?php echo 1; */ {$x} %s «quay»', shown)

    def test_the_same_brief_gives_the_same_files_and_every_value_is_checked(self):
        first = tree_of(self.make())
        self.assert_ok(self.sprout("undo"))
        self.assertEqual(tree_of(self.make()), first)
        self.assert_ok(self.sprout("enable", "chandlery", "-q"))
        wrong = {
            "integer": ("1.5", "ten", "99999999999"),
            "date": ("2026-02-30", "tomorrow"),
            "time": ("25:00",),
            "datetime": ("2026-11-23",),
            "email": ("nobody",),
            "uuid": ("12",),
            "slug": ("Two words",),
            "duration": ("1:99",),
            "link": ("javascript:alert(1)",),
        }
        right = {
            "integer": ("-7", "-7"),
            "date": ("2026-11-23", "2026-11-23"),
            "time": ("6:30", None),
            "datetime": ("2026-11-23T06:30", "2026-11-23 06:30:00"),
            "duration": ("1:30", "5400"),
            "link": ("https://example.org/a?b=c", "https://example.org/a?b=c"),
        }
        code = "".join(
            f"echo is_wp_error( Chandlery\\Values::checked( [ 'type' => '{kind}' ], '{value}' ) ) ? '' : '{kind} {value} ';"
            for kind, values in wrong.items()
            for value in values
        )
        code += "".join(
            f"$v = Chandlery\\Values::checked( [ 'type' => '{kind}' ], '{value}' );"
            + (f"echo (string) $v === '{kept}' ? '' : '{kind} kept otherwise ';" if kept is not None else "")
            for kind, (value, kept) in right.items()
        )
        code += "echo is_wp_error( Chandlery\\Values::checked( [ 'type' => 'decimal', 'digits' => 4, 'places' => 1 ], '1234.5' ) ) ? '' : 'too long ';"
        self.assertEqual(self.in_host(code), "")

    def test_uninstalling_leaves_nothing_behind(self):
        self.make()
        self.assert_ok(self.sprout("enable", "chandlery", "-q"))
        self.assert_ok(self.sprout("disable", "chandlery", "-q"))
        left = self.in_host(
            "require_once ABSPATH . 'wp-admin/includes/plugin.php'; uninstall_plugin( 'chandlery/chandlery.php' );"
            " echo implode( ' ', $wpdb->get_col( \"SHOW TABLES LIKE '%chandlery%'\" ) );"
            " echo implode( ' ', $wpdb->get_col( \"SELECT option_name FROM $wpdb->options WHERE option_name LIKE '%chandlery%'\" ) );"
            " echo strpos( serialize( wp_roles()->roles ), 'chandlery' );"
        )
        self.assertEqual(left, "")


class Refused(WordPressCase):
    def test_what_the_host_or_php_keeps_for_itself(self):
        cases = {
            "A record named Class": ("new", "Shop", "--record", "Class: name text"),
            "a field named id": ("new", "Shop", "--record", "Thing: id integer"),
            "a module named admin": ("new", "Admin"),
            "a module that is there": ("new", "Ferries"),
        }
        for what, words in cases.items():
            with self.subTest(what):
                before = self.files()
                ran = self.sprout(*words)
                self.assertIn(ran.status, (2, 4), ran.out)
                self.assertIn("remedy:", ran.err)
                self.assertEqual(self.files(), before)
