<?php
/** Tells from the database alone, without loading the host, which modules are on and how many rows tables hold. */

namespace SwiftSprout;

require __DIR__ . '/light.php';

( static function (): void {
	global $wpdb;
	$options = array();
	foreach ( $wpdb->get_results( "SELECT option_name AS n, option_value AS v FROM {$wpdb->options} WHERE option_name IN ('active_plugins', 'stylesheet', 'template')" ) as $row ) {
		$options[ $row->n ] = maybe_unserialize( $row->v );
	}
	$rows = array();
	foreach ( question()['tables'] ?? array() as $table ) {
		$name = $wpdb->prefix . $table;
		if ( $wpdb->get_var( $wpdb->prepare( 'SHOW TABLES LIKE %s', $wpdb->esc_like( $name ) ) ) ) {
			$rows[ $name ] = (int) $wpdb->get_var( "SELECT COUNT(*) FROM `$name`" );
		}
	}
	answer(
		array(
			'database' => $wpdb->db_server_info(),
			'active'   => array_values( (array) ( $options['active_plugins'] ?? array() ) ),
			'theme'    => $options['stylesheet'] ?? '',
			'parent_theme' => $options['template'] ?? '',
			'tables'   => $wpdb->get_col( $wpdb->prepare( 'SHOW TABLES LIKE %s', $wpdb->esc_like( $wpdb->prefix ) . '%' ) ),
			'prefix'   => $wpdb->prefix,
			'rows'     => $rows,
			'wrong'    => $wpdb->last_error,
		)
	);
} )();
