"""Reading PHP modules from their files alone: headers, syntax trees, rules and tables."""

import tempfile
import unittest
from pathlib import Path

from swift_sprout.hosts.kits.wordpress.reading.header import READ_BYTES, nearly_header, read_header
from swift_sprout.hosts.kits.wordpress.reading.modules import ModuleFiles, modules_of
from swift_sprout.hosts.kits.wordpress.reading.phpfile import PhpFile
from swift_sprout.hosts.kits.wordpress.reading.routes import pages_of, rest_routes_of
from swift_sprout.hosts.kits.wordpress.reading.syntax import literal, parsed, walk
from swift_sprout.hosts.kits.wordpress.reading.tables import tables_in, tables_spelled


def read(text: str) -> PhpFile:
    return PhpFile(Path("/quay/tide/tide.php"), text.encode())


class Headers(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "tide.php"

    def header(self, text: str):
        self.path.write_bytes(text.encode())
        return read_header(self.path)

    def test_every_form_of_comment_that_the_host_reads(self):
        for text in (
            "<?php\n/**\n * Plugin Name: Tide\n */",
            "<?php\n/*\nPlugin Name: Tide\n*/",
            "<?php\n// Plugin Name: Tide",
            "<?php\n# Plugin Name:   Tide   ",
            "<?php /* Plugin Name: Tide */",
            "<?php\r\n/*\r\nPlugin Name: Tide\r\n*/",
            "<?php\n/* plugin name: Tide */ ?>",
        ):
            with self.subTest(text):
                header = self.header(text)
                assert header is not None
                self.assertEqual(header.get("Plugin Name"), "Tide")

    def test_what_is_no_header(self):
        for text in ("<?php\n// Plugin: Tide", "<?php\n/* Plugin Name: */", "", "<?php $x = 'Plugin Name: Tide';"):
            with self.subTest(text):
                self.assertIsNone(self.header(text))

    def test_the_host_reads_the_first_bytes_only(self):
        filler = "// " + "x" * READ_BYTES + "\n"
        self.assertIsNone(self.header(f"<?php\n{filler}/* Plugin Name: Tide */"))
        self.assertEqual(nearly_header(self.path), 3)

    def test_keys_with_their_lines(self):
        header = self.header("<?php\n/**\n * Plugin Name: Tide\n * Version: 1.2\n * Requires PHP: 8.1 ?> x\n */")
        assert header is not None
        self.assertEqual((header.lines["Plugin Name"], header.lines["Version"]), (3, 4))
        self.assertEqual(header.get("Requires PHP"), "8.1")
        self.assertEqual(header.get("Author"), "")

    def test_a_theme_says_its_name_otherwise(self):
        self.path.write_text("/*\nTheme Name: Quayside\nVersion: 1.0\n*/")
        header = read_header(self.path, "Theme Name")
        assert header is not None
        self.assertEqual(header.get("Plugin Name"), "Quayside")
        self.assertIsNone(read_header(self.path))


class Syntax(unittest.TestCase):
    def value(self, expression: str):
        root = parsed(f"<?php $x = {expression};".encode()).root_node
        assignment = next(node for node in walk(root) if node.type == "assignment_expression")
        return literal(assignment.child_by_field_name("right"), {"__NAMESPACE__": "Quay"})

    def test_values_that_say_themselves(self):
        cases = {
            "'it\\'s'": "it's",
            "'a\\\\b'": "a\\b",
            '"a\\"b\\$c"': 'a"b$c',
            "12": 12,
            "true": True,
            "'a' . 'b'": "ab",
            "( 'a' . \"b\" )": "ab",
            "__NAMESPACE__ . '\\\\run'": "Quay\\run",
        }
        for text, value in cases.items():
            with self.subTest(text):
                self.assertEqual(self.value(text), value)

    def test_values_that_do_not(self):
        for text in ('"a $b"', "$a . 'b'", "f( 'a' )", "UNKNOWN"):
            with self.subTest(text):
                self.assertIsNone(self.value(text))

    def test_what_does_not_parse_has_a_line(self):
        self.assertEqual(read("<?php\nfunction a() {}\n").broken_line, 0)
        self.assertEqual(read("<?php\n\nfunction a( {\n").broken_line, 3)

    def test_names_with_their_namespace(self):
        file = read(
            "<?php\nnamespace Quay\\Tide;\nuse Other\\Thing as Stuff;\nuse Other\\{One, Two as Deux};\n"
            "final class Board extends Stuff {\n\tconst NAME = 'board';\n\tpublic static function boot(): void {}\n"
            "\tprivate function secret() {}\n}\ninterface Seen {}\nfunction run() {}\n"
        )
        self.assertEqual(file.namespace, "Quay\\Tide")
        board = file.classes[0]
        self.assertEqual((board.name, board.extends, board.line), ("Quay\\Tide\\Board", "Other\\Thing", 5))
        self.assertEqual(board.constants["NAME"], "board")
        self.assertTrue(board.methods["boot"].static and board.methods["boot"].public)
        self.assertFalse(board.methods["secret"].public)
        self.assertEqual(file.whole("Deux"), "Other\\Two")
        self.assertEqual(file.whole("\\Global_One"), "Global_One")
        self.assertEqual(file.functions, {"Quay\\Tide\\run": 11})

    def test_calls_with_where_they_stand(self):
        file = read(
            "<?php\nadd_action( 'init', 'a' );\nfunction b() {\n\tadd_filter( 'x', 'c', 10, 2 );\n}\n"
            "class D {\n\tfunction e() {\n\t\tif ( f() ) {\n\t\t\tadd_shortcode( 'g', [ $this, 'h' ] );\n\t\t}\n\t}\n}\n"
            "add_action( 'z', function () { add_filter( 'y', 'k' ); } );\n"
        )
        places = {call.values[0]: (call.inside, call.maybe) for call in file.calls}
        self.assertEqual(places["init"], (("", ""), False))
        self.assertEqual(places["x"], (("", "b"), False))
        self.assertEqual(places["g"], (("D", "e"), True))
        self.assertEqual(places["y"], (("", "{closure}"), False))

    def test_what_is_given_to_be_called(self):
        cases = {
            "'run'": ("", "run"),
            "'Quay\\\\Board::draw'": ("Quay\\Board", "draw"),
            "[ self::class, 'draw' ]": ("Quay\\Here", "draw"),
            "array( $this, 'draw' )": ("Quay\\Here", "draw"),
            "[ Board::class, 'draw' ]": ("Quay\\Board", "draw"),
            "[ '\\\\Quay\\\\Board', 'draw' ]": ("Quay\\Board", "draw"),
            "[ new Board(), 'draw' ]": ("Quay\\Board", "draw"),
            "$this->draw( ... )": ("Quay\\Here", "draw"),
            "Board::draw( ... )": ("Quay\\Board", "draw"),
            "run( ... )": ("", "run"),
            "[ $board, 'draw' ]": ("", "draw"),
            "fn() => 1": ("", ""),
            "$name": ("", ""),
        }
        for text, wanted in cases.items():
            with self.subTest(text):
                file = read(
                    f"<?php\nnamespace Quay;\nclass Here {{\n\tfunction x() {{ add_action( 'init', {text} ); }}\n}}\n"
                )
                call = file.calls[0]
                self.assertEqual(file.target(call.nodes[1], call.inside[0])[:2], wanted)

    def test_includes_lead_from_the_folder_of_the_file(self):
        file = read(
            "<?php\nrequire __DIR__ . '/a.php';\nrequire_once dirname( __FILE__ ) . '/b/c.php';\n"
            "include plugin_dir_path( __FILE__ ) . 'd.php';\nrequire dirname( __DIR__ ) . '/e.php';\nrequire $x;\n"
            "include_once( ABSPATH . 'wp-admin/f.php' );\n"
        )
        self.assertEqual(
            [(one.base, one.path) for one in file.includes],
            [("", "a.php"), ("", "b/c.php"), ("", "d.php"), ("", "../e.php"), ("ABSPATH", "wp-admin/f.php")],
        )
        self.assertEqual(file.unread, 1)

    def test_includes_that_may_be_absent_are_told_apart(self):
        file = read(
            "<?php\nif ( is_readable( __DIR__ . '/vendor/autoload.php' ) ) {\n"
            "\trequire __DIR__ . '/vendor/autoload.php';\n}\n"
            "@include __DIR__ . '/local.php';\nif ( is_admin() ) {\n\trequire __DIR__ . '/screens.php';\n}\n"
        )
        self.assertEqual([(one.path, one.maybe) for one in file.includes][-1], ("screens.php", False))
        self.assertTrue(all(one.maybe for one in file.includes[:-1]))

    def test_folders_are_known_by_the_constants_that_hold_them(self):
        file = read(
            "<?php\ndefine( 'QUAY_DIR', plugin_dir_path( __FILE__ ) );\nconst QUAY_PARTS = __DIR__ . '/parts';\n"
            "define( 'QUAY_ROOT', trailingslashit( dirname( __DIR__ ) ) );\nrequire QUAY_DIR . 'parts/' . 'a.php';\n"
        )
        self.assertEqual(file.folders, {"QUAY_DIR": ".", "QUAY_PARTS": "parts", "QUAY_ROOT": ".."})
        self.assertEqual([(one.base, one.path) for one in file.includes], [("QUAY_DIR", "parts/a.php")])

    def test_what_prints_as_soon_as_it_is_loaded(self):
        self.assertEqual(read("<?php\necho 1;\n").prints(), 2)
        self.assertEqual(read("\n<?php\n").prints(), 1)
        self.assertEqual(read("\ufeff<?php\n").prints(), 1)
        for text in (
            "<?php\nfunction a() { echo 1; ?><p></p><?php }\n",
            "<?php\nif ( ! defined( 'ABSPATH' ) ) { echo 'no'; exit; }\n",
            "<?php\nadd_action( 'x', function () { echo 1; } );\n",
            "<?php\nclass A { function b() { ?>text<?php } }\n",
        ):
            with self.subTest(text):
                self.assertEqual(read(text).prints(), 0)


class Modules(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.root = Path(folder.name)

    def put(self, path: str, text: str) -> Path:
        target = self.root / "wp-content/plugins" / path
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_text(text)
        return target

    def test_folders_files_and_themes(self):
        self.put("tide/tide.php", "<?php /* Plugin Name: Tide board */")
        self.put("bell.php", "<?php /* Plugin Name: Bell */")
        self.put("index.php", "<?php // silence")
        self.put("empty/readme.txt", "nothing")
        self.put("../themes/quayside/style.css", "/* Theme Name: Quayside */")
        found = modules_of(self.root)
        self.assertEqual([(one.name, one.key, one.sort) for one in found], [
            ("bell", "bell.php", "module"), ("tide", "tide/tide.php", "module"), ("quayside", "theme quayside", "theme")
        ])  # fmt: skip
        self.assertEqual([one.title for one in found], ["Bell", "Tide board", "Quayside"])

    def test_the_file_named_like_its_folder_is_the_main_one(self):
        self.put("tide/a.php", "<?php /* Plugin Name: Another */")
        self.put("tide/tide.php", "<?php /* Plugin Name: Tide */")
        module = modules_of(self.root)[0]
        self.assertEqual((module.key, len(module.mains)), ("tide/tide.php", 2))

    def module(self, **files: str) -> ModuleFiles:
        self.put("tide/tide.php", "<?php /* Plugin Name: Tide */\n" + files.pop("main", ""))
        for name, text in files.items():
            self.put(f"tide/{name}.php", text)
        return ModuleFiles(self.root / "wp-content/plugins/tide")

    def test_only_what_the_host_comes_to_counts_as_reached(self):
        module = self.module(
            main="require __DIR__ . '/used.php';",
            used="<?php require __DIR__ . '/deeper.php';",
            deeper="<?php",
            other="<?php",
        )
        self.assertEqual([file.path.stem for file in module.reached_files], ["tide", "used", "deeper"])

    def test_methods_from_classes_that_are_extended(self):
        module = self.module(
            one="<?php class One { public function run() {} }", two="<?php class Two extends One {}",
            three="<?php class Three extends WP_Widget {}", four="<?php class Four { function __call( $a, $b ) {} }",
        )  # fmt: skip
        self.assertTrue(module.method("Two", "run"))
        self.assertFalse(module.method("Two", "walk"))
        self.assertIsNone(module.method("Three", "get_settings"))
        self.assertIsNone(module.method("Unknown", "run"))
        self.assertTrue(module.method("Four", "anything"))

    def test_rules_as_addresses(self):
        module = self.module(
            main="add_rewrite_rule( '^tides/?$', 'index.php?tide_page=list', 'top' );\n"
            "add_rewrite_rule( '^tides/([0-9]+)/?$', 'index.php?tide_page=one&tide_in_number=$matches[1]', 'top' );\n"
            "add_rewrite_rule( $unknown, 'index.php', 'top' );\n"
        )
        fixed, changing = pages_of(module)
        self.assertEqual((fixed.path, fixed.changing, fixed.leads_to), ("/tides/", False, "list"))
        self.assertEqual((changing.path, changing.spelled), ("", "/tides/{number}/"))
        self.assertEqual(changing.variables, ["tide_page", "tide_in_number"])

    def test_endpoints_with_their_guards(self):
        module = self.module(
            main="register_rest_route( 'tide/v1', '/all/', array( 'methods' => 'GET', 'callback' => 'a' ) );\n"
            "register_rest_route( 'tide/v1', '/one', array( array( 'methods' => 'POST', 'callback' => 'b',"
            " 'permission_callback' => 'c' ) ) );\n"
        )
        first, second = rest_routes_of(module)
        self.assertEqual((first.address, [guarded for _, guarded, _ in first.handlers]), ("/tide/v1/all", [False]))
        self.assertEqual((second.address, [guarded for _, guarded, _ in second.handlers]), ("/tide/v1/one", [True]))

    def test_tables_in_statements(self):
        for text in (
            '"CREATE TABLE {$wpdb->prefix}tide_high (id int)"',
            '"CREATE TABLE $wpdb->prefix" . "tide_high (id int)"',
            "'CREATE TABLE IF NOT EXISTS ' . $wpdb->prefix . 'tide_high (id int)'",
            '"CREATE TABLE `{$wpdb->prefix}tide_high` (id int)"',
        ):
            with self.subTest(text):
                self.assertEqual(tables_in(read(f"<?php dbDelta( {text} );").content), ["tide_high"])
        self.assertEqual(tables_in(read('<?php dbDelta( "CREATE TABLE $table (id int)" );').content), [])

    def test_tables_whose_names_are_put_together(self):
        there = ["posts", "tide_high", "tide_marks", "berths"]
        module = self.module(
            main="const TABLE = 'tide_high';\n$t = $wpdb->prefix . TABLE;\ndbDelta( \"CREATE TABLE $t (id int)\" );\n"
            '$wpdb->get_results( "SELECT * FROM {$wpdb->prefix}posts" );\n'
        )
        self.assertEqual(tables_spelled(module, there, []), ["tide_high"])
        self.assertEqual(tables_spelled(module, there, [module]), [])  # another one spells it as well
        for more in ("'tide_marks'", "'berths'"):  # made, or only read: that cannot be told
            reads = self.module(main=f"$t = 'tide_high';\ndbDelta( \"CREATE TABLE $t (id int)\" );\n$o = {more};\n")
            self.assertEqual(tables_spelled(reads, there, []), [])


class Includes(unittest.TestCase):
    """What a file loads, in the spellings that modules have."""

    def included(self, code: str) -> list[tuple[str, str, bool]]:
        return [(one.base, one.path, one.later) for one in read(code).includes]

    def test_folders_of_the_file_and_above(self):
        for said in (
            "plugin_dir_path( dirname( __FILE__ ) ) . 'includes/berth.php'",
            "dirname( __DIR__ ) . '/includes/berth.php'",
        ):
            with self.subTest(said):
                self.assertEqual(self.included(f"<?php require_once {said};"), [("", "../includes/berth.php", False)])

    def test_inside_of_a_function_it_is_loaded_later(self):
        code = "<?php class A { function draw() { include __DIR__ . '/berth.php'; } }"
        self.assertEqual(self.included(code), [("", "berth.php", True)])

    def test_a_path_from_the_folder_beside_the_file(self):
        with tempfile.TemporaryDirectory() as folder:
            (Path(folder) / "partials").mkdir()
            said = PhpFile(Path(folder) / "quay.php", b"<?php include 'partials/berth.php'; include 'berth.php';")
        self.assertEqual([(one.base, one.path) for one in said.includes], [("", "partials/berth.php")])
        self.assertEqual(said.unread, 1)
