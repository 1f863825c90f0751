<?php
/** Writes the rows of a module's tables to a file, then takes the tables and roles away. */

namespace SwiftSprout;

require __DIR__ . '/talk.php';

$_SERVER['HTTP_HOST'] ??= '127.0.0.1';
$GLOBALS['wp_filter']['option_active_plugins'][10][] = array( 'accepted_args' => 1, 'function' => static fn() => array() );
require question()['root'] . '/wp-load.php';

( static function (): void {
	global $wpdb;
	$asked = question();
	$rows  = array();
	$there = array();
	foreach ( $asked['tables'] as $table ) {
		$name = $wpdb->prefix . $table;
		if ( $wpdb->get_var( $wpdb->prepare( 'SHOW TABLES LIKE %s', $wpdb->esc_like( $name ) ) ) ) {
			$rows[ $name ] = $wpdb->get_results( "SELECT * FROM `$name`", ARRAY_A );
			$there[]       = $name;
		}
	}
	if ( false === file_put_contents( $asked['rows'], json_encode( (object) $rows, JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE ) ) ) {
		return;
	}
	foreach ( $there as $name ) {
		$wpdb->query( "DROP TABLE `$name`" );
	}
	array_map( 'remove_role', $asked['roles'] );
	delete_option( 'rewrite_rules' );
	answer( array( 'done' => true, 'dropped' => $there ) );
} )();
