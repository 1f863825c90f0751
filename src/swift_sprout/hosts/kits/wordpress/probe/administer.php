<?php
/** Loads the host once, as a screen of its administration does, for who may do all or holds some roles. Nothing stays. */

namespace SwiftSprout;

require __DIR__ . '/guard.php';
require __DIR__ . '/persons.php';
require __DIR__ . '/facts.php';
require __DIR__ . '/carried.php';
require __DIR__ . '/asked.php';
require __DIR__ . '/shapes.php';
require __DIR__ . '/files.php';
require __DIR__ . '/trying.php';
require __DIR__ . '/given.php';
require __DIR__ . '/doing.php';
require __DIR__ . '/administration.php';
require __DIR__ . '/steps.php';

ob_start();
define( 'WP_ADMIN', true );
$_SERVER['HTTP_HOST']    ??= '127.0.0.1';
$_SERVER['REQUEST_URI']    = '/wp-admin/index.php';
$_SERVER['PHP_SELF']       = '/wp-admin/index.php';
$_SERVER['REQUEST_METHOD'] = 'GET';
Guard::begin( question()['without'] ?? array(), question()['with'] ?? array() );
Persons::be( question()['roles'] ?? array( 'everything' ) );
Administration::begin();
require question()['root'] . '/wp-load.php';
require_once ABSPATH . 'wp-admin/includes/admin.php';
wp_set_current_user( Persons::number() );
$GLOBALS['plugin_page'] = null;
require ABSPATH . 'wp-admin/menu.php'; // here, for it fills global variables without naming them

Administration::stay();
$sprout_places = question()['places'] ?? array();
$sprout_tried  = Trying::of( question()['harmless'] ?? array() );
$sprout_few    = Trying::few( $sprout_tried );
answer_steps(
	array(
		'menu'     => array( Administration::class, 'menu' ),
		'started'  => array( Administration::class, 'started' ),
		'hooks'    => array( Facts::class, 'hooks' ),
		'settings' => array( Administration::class, 'settings' ),
		'screens'  => static fn(): array => Administration::screens( $sprout_places ),
		'made'     => static fn(): array => Watch::$made,
		'absent_there' => array( Carried::class, 'absent' ),
		'names'    => array( Carried::class, 'names' ),
		'functions_absent' => static fn(): array => Asked::functions( question()['functions'] ?? array() ),
		'database_absent'  => static fn(): array => Asked::database( ...question()['database'] ?? array( array(), array() ) ),
		'made_up_there' => static fn(): array => Trying::rows( $sprout_tried ),
		'terms_there' => static fn() => Doing::terms( $sprout_few ),
		'boxes'    => static fn() => Administration::boxes( $sprout_places ),
		'waiting_there' => array( Carried::class, 'waiting' ),
		'uncallable_there' => array( Given::class, 'uncallable_there' ),
		'unregistered_there' => array( Given::class, 'blocks' ),
		'screens_again' => static fn() => Trying::screens( $sprout_tried ),
		'lists'    => static fn() => Trying::lists( $sprout_tried ),
		'of_terms' => static fn() => Doing::of_terms( $sprout_few ),
		'of_contents' => static fn() => Doing::of_contents( $sprout_few ),
		'widgets'  => static fn() => Trying::widgets( $sprout_tried ),
		'looks'    => static fn(): array => Given::looks( $sprout_few ),
		'sorted'   => static fn() => Doing::sorted( $sprout_few ),
		'data'     => static fn() => Given::asked( $sprout_few ),
		'answers'  => static fn() => Trying::answers( $sprout_tried ),
		'files_there' => static fn(): array => Facts::loaded( $sprout_places ),
		'sent_there' => static fn() => Doing::sent( $sprout_few ),
		'anew'     => static fn(): array => Doing::installing( $sprout_few ),
		'uninstalling' => static fn() => Doing::uninstalling( $sprout_few ),
	),
	question()['only'] ?? array()
);
