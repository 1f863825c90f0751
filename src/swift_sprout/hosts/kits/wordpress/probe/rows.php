<?php
/** Writes the rows of a module's tables to a file, puts them back from there, or takes the tables and roles away. */

namespace SwiftSprout;

require __DIR__ . '/talk.php';

$_SERVER['HTTP_HOST'] ??= '127.0.0.1';
$GLOBALS['wp_filter']['option_active_plugins'][10][] = array( 'accepted_args' => 1, 'function' => static fn() => array() );
require question()['root'] . '/wp-load.php';

/** The tables of the question that are there, with the host's prefix. */
function tables(): array {
	global $wpdb;
	$names = array_map( static fn( $table ) => $wpdb->prefix . $table, question()['tables'] );
	return array_values(
		array_filter( $names, static fn( $name ) => $wpdb->get_var( $wpdb->prepare( 'SHOW TABLES LIKE %s', $wpdb->esc_like( $name ) ) ) )
	);
}

/** A value as JSON can hold it: bytes that are no text are packed. */
function packed( ?string $value ) {
	return null === $value || preg_match( '//u', $value ) ? $value : array( 'base64' => base64_encode( $value ) );
}

/** The value that was packed. */
function unpacked( $value ) {
	return is_array( $value ) ? base64_decode( $value['base64'], true ) : $value;
}

function save(): void {
	global $wpdb;
	$rows = array();
	foreach ( tables() as $name ) {
		$found = $wpdb->get_results( "SELECT * FROM `$name`", ARRAY_A );
		if ( $wpdb->last_error ) {
			answer( array( 'wrong' => $wpdb->last_error ) );
			return;
		}
		$rows[ $name ] = array_map( static fn( $row ) => array_map( __NAMESPACE__ . '\packed', $row ), $found );
	}
	$text    = json_encode( (object) $rows, JSON_UNESCAPED_UNICODE );
	$written = false === $text ? false : file_put_contents( question()['rows'], $text );
	answer( strlen( (string) $text ) === $written ? array( 'done' => true ) : array( 'wrong' => 'the rows were not written' ) );
}

function load(): void {
	global $wpdb;
	foreach ( json_decode( file_get_contents( question()['rows'] ), true ) as $name => $rows ) {
		foreach ( $rows as $row ) {
			if ( false === $wpdb->replace( $name, array_map( __NAMESPACE__ . '\unpacked', $row ) ) ) {
				answer( array( 'wrong' => $wpdb->last_error ) );
				return;
			}
		}
	}
	answer( array( 'done' => true ) );
}

function drop(): void {
	global $wpdb;
	$dropped = array();
	foreach ( tables() as $name ) {
		if ( false === $wpdb->query( "DROP TABLE `$name`" ) ) {
			answer( array( 'wrong' => $wpdb->last_error, 'dropped' => $dropped ) );
			return;
		}
		$dropped[] = $name;
	}
	array_map( 'remove_role', question()['roles'] );
	delete_option( 'rewrite_rules' );
	answer( array( 'done' => true, 'dropped' => $dropped ) );
}

call_user_func( __NAMESPACE__ . '\\' . question()['what'] );
