<?php
/** The tables that are there, and those that modules want. */

namespace SwiftSprout;

final class Shapes {
	/** Every table of the host with its columns. */
	public static function tables(): array {
		global $wpdb;
		$found = array();
		$rows  = $wpdb->get_results(
			$wpdb->prepare(
				'SELECT TABLE_NAME AS t, COLUMN_NAME AS c, COLUMN_TYPE AS y FROM information_schema.COLUMNS'
				. ' WHERE TABLE_SCHEMA = %s AND TABLE_NAME LIKE %s ORDER BY TABLE_NAME, ORDINAL_POSITION',
				DB_NAME,
				$wpdb->esc_like( $wpdb->prefix ) . '%'
			)
		);
		foreach ( $rows as $row ) {
			$found[ substr( $row->t, strlen( $wpdb->prefix ) ) ][ $row->c ] = $row->y;
		}
		return $found;
	}

	/** For each module that says its tables: what the host's own function would change to bring them about. */
	public static function wanted( array $namespaces ): array {
		require_once ABSPATH . 'wp-admin/includes/upgrade.php';
		$found = array();
		foreach ( $namespaces as $module => $namespace ) {
			$class = $namespace . '\Install';
			if ( ! class_exists( $class ) || ! is_callable( array( $class, 'tables' ) ) ) {
				continue;
			}
			try {
				$changes          = array();
				$names            = array();
				foreach ( $class::tables() as $table => $statement ) {
					$names[] = $table;
					$changes = array_merge( $changes, array_values( array_filter( dbDelta( $statement, false ) ) ) );
				}
				$found[ $module ] = array( 'tables' => $names, 'changes' => $changes, 'failed' => '' );
			} catch ( \Throwable $thrown ) {
				$found[ $module ] = array( 'tables' => array(), 'changes' => array(), 'failed' => $thrown->getMessage() );
			}
		}
		return $found;
	}
}
