<?php
/** Loads the host once and tells what it knows: modules, addresses, roles, tables, menus, places. Nothing stays. */

namespace SwiftSprout;

require __DIR__ . '/guard.php';
require __DIR__ . '/persons.php';
require __DIR__ . '/facts.php';
require __DIR__ . '/shapes.php';

ob_start();
$_SERVER['HTTP_HOST']   ??= '127.0.0.1';
$_SERVER['REQUEST_URI'] ??= '/';
Guard::begin( question()['without'] ?? array(), question()['with'] ?? array() );
Persons::be( array( 'everything' ) );
require question()['root'] . '/wp-load.php';

( static function (): void {
	$asked = question();
	answer( array( 'booted' => true ) );
	$steps = array(
		'host'     => array( Facts::class, 'host' ),
		'modules'  => array( Facts::class, 'modules' ),
		'rules'    => array( Facts::class, 'rules' ),
		'rest'     => array( Facts::class, 'endpoints' ),
		'hooks'    => array( Facts::class, 'hooks' ),
		'places'   => array( Facts::class, 'places' ),
		'roles'    => array( Facts::class, 'roles' ),
		'people'   => array( Facts::class, 'people' ),
		'tables'   => array( Shapes::class, 'tables' ),
		'shapes'   => static fn(): array => Shapes::wanted( $asked['namespaces'] ?? array() ),
		'menu'     => array( Facts::class, 'menu' ),
		'calls'    => static fn(): array => Facts::calls( $asked['places'] ?? array() ),
		'screens'  => static fn(): array => Facts::screens( $asked['places'] ?? array() ),
	);
	$only  = $asked['only'] ?? array();
	foreach ( $steps as $name => $step ) {
		if ( $only && ! in_array( $name, $only, true ) ) {
			continue;
		}
		try {
			answer( array( $name => $step() ) );
		} catch ( \Throwable $thrown ) {
			$place = array( $thrown->getFile(), $thrown->getLine() );
			answer( array( 'failed' => array( $name => array( $thrown->getMessage(), ...$place ) ) ) );
		}
	}
} )();
