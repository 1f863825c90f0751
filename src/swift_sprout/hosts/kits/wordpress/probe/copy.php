<?php
/** Copies every table of the host to the database server of a sandbox; of the host itself it only reads. */

namespace SwiftSprout;

require __DIR__ . '/light.php';

( static function (): void {
	global $wpdb;
	$asked  = question();
	$target = mysqli_connect( 'localhost', 'root', '', $asked['database'], 0, $asked['socket'] );
	$target->set_charset( 'utf8mb4' );
	$target->query( "SET sql_mode = ''" );
	$source = $wpdb->dbh;
	$source->query( 'START TRANSACTION READ ONLY' );
	$copied = 0;
	foreach ( $source->query( "SHOW FULL TABLES WHERE Table_type = 'BASE TABLE'" )->fetch_all() as list( $table ) ) {
		$target->query( $source->query( "SHOW CREATE TABLE `$table`" )->fetch_row()[1] );
		$rows = $source->query( "SELECT * FROM `$table`", MYSQLI_USE_RESULT );
		$some = array();
		while ( true ) {
			$row = $rows->fetch_row();
			if ( $row ) {
				$some[] = '(' . implode( ',', array_map( static fn( $value ) => null === $value ? 'NULL' : "'" . $target->real_escape_string( $value ) . "'", $row ) ) . ')';
			}
			if ( $some && ( ! $row || count( $some ) >= 200 ) ) {
				$target->query( "INSERT INTO `$table` VALUES " . implode( ',', $some ) );
				$some = array();
			}
			if ( ! $row ) {
				break;
			}
		}
		$rows->free();
		++$copied;
	}
	answer( array( 'copied' => $copied ) );
} )();
