"""Variables and members that PHP code asks for and nothing defines, read from files alone."""

from __future__ import annotations

import unittest
from pathlib import Path

from swift_sprout.hosts.kits.wordpress.reading.members import Members
from swift_sprout.hosts.kits.wordpress.reading.phpfile import PhpFile
from swift_sprout.hosts.kits.wordpress.reading.variables import undefined_variables


def undefined(code: str) -> list[str]:
    file = PhpFile(Path("/quay/quay.php"), f"<?php\n{code}".encode())
    return [f"{one.line} {one.name}{one.near}" for one in undefined_variables(file.bodies, {"quay_tell"})]


def absent(*codes: str) -> list[str]:
    files = [PhpFile(Path(f"/quay/{number}.php"), f"<?php\n{code}".encode()) for number, code in enumerate(codes)]
    return [f"{one.sort} {one.name}" for one in Members(files).absent()]


def absent_elsewhere(*codes: str) -> list[str]:
    files = [PhpFile(Path(f"/quay/{number}.php"), f"<?php\n{code}".encode()) for number, code in enumerate(codes)]
    return [f"{one.of} {one.name}{one.near}" for one in Members(files).absent_elsewhere()]


class Variables(unittest.TestCase):
    def test_what_nothing_defines(self) -> None:
        for code, expected in (
            ("function f( $berth ) {\n\treturn $berths;\n}", ["3 berths (did you mean $berth?)"]),
            ("class A {\n\tpublic function f() {\n\t\techo esc_html( $name );\n\t}\n}", ["4 name"]),
            ('function f() {\n\treturn "Berth $number";\n}', ["3 number"]),
            ("function f() {\n\t$text .= 'tide';\n\treturn $text;\n}", ["3 text"]),
            ("function f( $rows ) {\n\treturn function () { return $rows; };\n}", ["3 rows"]),
            ("function f() {\n\treturn function () use ( $rows ) { return $rows; };\n}", ["3 rows"]),
            ("function f( $x ) {\n\tquay_tell( $y );\n}", ["3 y"]),
            ("function f() {\n\treturn array_map( fn( $one ) => $one . $end, array() );\n}", ["3 end"]),
            ("function f() {\n\t$tide->height = 3;\n}", ["3 tide"]),
        ):
            with self.subTest(code):
                self.assertEqual(undefined(code), expected)

    def test_what_may_be_defined_is_left_alone(self) -> None:
        for body in (
            "global $wpdb; return $wpdb->prefix;",
            "static $made = 0; return ++$made;",
            "foreach ( $given as $key => $value ) { echo $key, $value; }",
            "foreach ( $given as [ 'name' => $name, 'at' => $at ] ) { echo $name, $at; }",
            "list( $a, list( , $b ) ) = $given; return $a . $b;",
            "[ $a, $b ] = $given; return $a . $b;",
            "try { go(); } catch ( Exception $e ) { return $e->getMessage(); }",
            "preg_match( '/x/', $given, $found ); return $found[0];",
            "$this->fill( $row ); return $row;",
            "Quay::fill( $row ); return $row;",
            "new Filler( $row ); return $row;",
            "extract( $given ); return $berth;",
            "include $given; return $berth;",
            "$$given = 1; return $berth;",
            "return isset( $berth ) ? $berth : '';",
            "if ( empty( $berth ) ) { return ''; } return $berth;",
            "return $berth ?? '';",
            "$berth ??= 3; return $berth;",
            "return @$berth;",
            "$all['a']['b'] = 1; return $all;",
            "$all[] = 1; return $all;",
            "$other = &$berth; return $berth;",
            "$call = function () use ( &$count ) { $count++; }; $call(); return $count;",
            "return array_map( static fn( $one, ...$rest ) => $one . count( $rest ), $given );",
            "return self::$berths[ static::$number ];",
            "return new class( $given ) { public $berth; public function f() { return $this->berth; } };",
            "while ( $row = next_row() ) { echo $row; }",
            "if ( ( $found = go() ) && $found->ok ) { return $found; }",
            "for ( $i = 0, $n = 3; $i < $n; $i++ ) { echo $i; }",
            "return $_POST['x'] . $GLOBALS['y'] . $this->z;",
            "printf( '%1$s of %2$s', 1, 2 );",
            "unset( $berth );",
            "return compact( 'given' );",
        ):
            with self.subTest(body):
                self.assertEqual(undefined("class A {\n\tpublic function f( $given ) { " + body + " }\n}"), [])

    def test_the_top_of_a_file_shares_what_loads_it(self) -> None:
        self.assertEqual(undefined("echo $title; foreach ( $rows as $row ) { echo $row; }"), [])

    def test_a_number_in_base_eight(self) -> None:
        file = PhpFile(Path("/quay/quay.php"), b"<?php require __DIR__ . 0755; add_option( 'mode', 0644 );")
        self.assertEqual(file.calls[0].values, ["mode", 0o644])


class OwnMembers(unittest.TestCase):
    def test_what_a_class_does_not_have(self) -> None:
        for code, expected in (
            ("class A { function f() { return $this->fnd(); } function find() {} }", ["method fnd"]),
            ("class A { static function f() { return self::all(); } }", ["method all"]),
            ("class A { function f() { return static::SIZ; } const SIZE = 3; }", ["constant SIZ"]),
            ("class A { function f() { return A::make(); } }", ["method make"]),
            ("class A { private $berths; function f() { return $this->berts; } }", ["property berts"]),
            ("class B {} class A extends B { function f() { return parent::f(); } }", ["method f"]),
        ):
            with self.subTest(code):
                self.assertEqual(absent(code), expected)

    def test_what_it_may_have_from_elsewhere_is_left_alone(self) -> None:
        for codes in (
            ("class A extends WP_Widget { function f() { return $this->get_field_id( 'x' ); } }",),
            ("class A { use Signals; function f() { return $this->signal(); } }",),
            ("class A { use Signals; function f() { return $this->signal(); } }", "trait Signals { function signal() {} }"),
            ("class A { use B, C { B::go insteadof C; C::go as other; } function f() { return $this->other(); } }",
             "trait B { function go() {} } trait C { function go() {} }"),
            ("abstract class A { function f() { return $this->g() . static::SIZE; } }",
             "class B extends A { const SIZE = 1; protected function g() {} }"),
            ("class A { function __call( $n, $a ) {} function f() { return $this->anything(); } }",),
            ("class A { static function __callStatic( $n, $a ) {} static function f() { return self::anything(); } }",),
            ("class A { function f() { if ( method_exists( $this, 'g' ) ) { $this->g(); } } }",),
            ("class A { function f() { return $this->F(); } }",),
            ("class A { function f() { $name = 'g'; return $this->$name() . $this->{$name}; } }",),
            ("interface I { const SIZE = 1; } class A implements I { function f() { return self::SIZE; } }",),
            ("class A implements Countable { function f() { return self::SIZE; } }",),
            ("enum A: string { case One = 'x'; static function f() { return self::from( 'x' ) . self::One->value; } }",),
            ("class A { function f() { return new class { function g() { return $this->h(); } function h() {} }; } }",),
            ("class A { public function __construct( private string $berth ) {} function f() { return $this->berth; } }",),
            ("class A { private $berths; function f() { $this->berth = 1; return $this->berth; } }",),
            ("namespace Quay; class A extends B { function f() { return $this->g(); } }", "namespace Quay; class B { function g() {} }"),
            ("class A { function f() { return self::class . static::class; } }",),
        ):  # fmt: skip
            with self.subTest(codes):
                self.assertEqual(absent(*codes), [])

    def test_methods_of_another_class_whose_type_is_said(self) -> None:
        store = "class Store { public function add() {} public static function table() {} }"
        for code in (
            "class A { private Store $store; function f() { $this->store->ad(); } }",
            "class A { public function __construct( private ?Store $store ) {} function f() { $this->store?->ad(); } }",
            "class A { function f( Store $given ) { return $given->ad(); } }",
            "class A { function f() { return Store::ad(); } }",
        ):
            with self.subTest(code):
                self.assertEqual(absent_elsewhere(code, store), ["Store ad (did you mean add?)"])
        for code in (
            "class A { private Store $store; function f() { $this->store->ADD(); } }",
            "class A { private Store|Other $store; function f() { $this->store->ad(); } }",
            "class A { private $store; function f() { $this->store->ad(); } }",
            "class A { function f( Store $given ) { $given = wrapped( $given ); return $given->ad(); } }",
            "class A { private Other $store; function f() { $this->store->ad(); } }",
            "class A { private Store $store; function f() { if ( method_exists( $this->store, 'ad' ) ) { $this->store->ad(); } } }",
            "class Larger extends Store { function ad() {} } class A { private Store $s; function f() { $this->s->ad(); } }",
        ):
            with self.subTest(code):
                self.assertEqual(absent_elsewhere(code, store), [])
        magic = "class Store { public function __call( $name, $given ) {} }"
        self.assertEqual(absent_elsewhere("class A { function f( Store $s ) { $s->ad(); } }", magic), [])


if __name__ == "__main__":
    unittest.main()
