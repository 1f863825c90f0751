<?php
/** The tables that are there, and those that modules want. */

namespace SwiftSprout;

final class Shapes {
	/** The host's tables without its prefix. Opens none of them: one that cannot be opened is there as well. */
	public static function tables(): array {
		global $wpdb;
		$names = $wpdb->get_col( $wpdb->prepare( 'SHOW TABLES LIKE %s', $wpdb->esc_like( $wpdb->prefix ) . '%' ) );
		if ( $wpdb->last_error ) {
			throw new \RuntimeException( $wpdb->last_error );
		}
		return array_map( static fn( $name ) => substr( $name, strlen( $wpdb->prefix ) ), $names );
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
