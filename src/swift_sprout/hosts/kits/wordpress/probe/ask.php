<?php
/** Loads the host once, as a page of the site does, and tells what it knows. Nothing stays. */

namespace SwiftSprout;

require __DIR__ . '/guard.php';
require __DIR__ . '/persons.php';
require __DIR__ . '/facts.php';
require __DIR__ . '/shapes.php';
require __DIR__ . '/carried.php';
require __DIR__ . '/asked.php';
require __DIR__ . '/files.php';
require __DIR__ . '/trying.php';
require __DIR__ . '/given.php';
require __DIR__ . '/doing.php';
require __DIR__ . '/steps.php';

ob_start();
$_SERVER['HTTP_HOST']   ??= '127.0.0.1';
$_SERVER['REQUEST_URI'] ??= '/';
Guard::begin( question()['without'] ?? array(), question()['with'] ?? array() );
Persons::be( array( 'everything' ) );
require question()['root'] . '/wp-load.php';

$sprout_asked  = question();
$sprout_places = $sprout_asked['places'] ?? array();
$sprout_tried  = Trying::of( $sprout_asked['harmless'] ?? array() );
$sprout_few    = Trying::few( $sprout_tried );
answer_steps(
	array(
		'host'     => array( Facts::class, 'host' ),
		'modules'  => array( Facts::class, 'modules' ),
		'rules'    => array( Facts::class, 'rules' ),
		'rest'     => array( Facts::class, 'endpoints' ),
		'hooks'    => array( Facts::class, 'hooks' ),
		'places'   => array( Facts::class, 'places' ),
		'roles'    => array( Facts::class, 'roles' ),
		'people'   => array( Facts::class, 'people' ),
		'tables'   => array( Shapes::class, 'tables' ),
		'columns'  => array( Asked::class, 'columns' ),
		'shapes'   => static fn(): array => Shapes::wanted( $sprout_asked['namespaces'] ?? array() ),
		'types'    => array( Carried::class, 'types' ),
		'ordinary' => array( Carried::class, 'ordinary' ),
		'written'  => array( Carried::class, 'written' ),
		'jobs'     => array( Carried::class, 'jobs' ),
		'calls'    => static fn(): array => Facts::calls( $sprout_places ),
		'guards'   => static fn(): array => Facts::guards( $sprout_places ),
		'assets'   => array( Carried::class, 'assets' ),
		'waiting'  => array( Carried::class, 'waiting' ),
		'uncallable' => array( Given::class, 'uncallable' ),
		'unregistered' => array( Given::class, 'blocks' ),
		'names'    => array( Carried::class, 'names' ),
		'made'     => static fn(): array => Watch::$made,
		'codes'    => static fn() => Carried::codes( $sprout_places ),
		'blocks'   => array( Carried::class, 'blocks' ),
		'made_up'  => static fn(): array => Trying::rows( $sprout_tried ),
		'terms'    => static fn() => Doing::terms( $sprout_few ),
		'drawn_again' => static fn() => Trying::drawn( $sprout_tried ),
		'writing'  => static fn() => Trying::endpoints( $sprout_tried ),
		'pages_again' => static fn() => Doing::pages( $sprout_few ),
		'files'     => static fn(): array => Facts::loaded( $sprout_places ),
		'sent'     => static fn() => Doing::sent( $sprout_few ),
		'done'     => static fn() => Carried::done( $sprout_tried ),
	),
	$sprout_asked['only'] ?? array()
);
