<?php

defined( 'ABSPATH' ) || exit;

/** The pilots, as the table holds them. */
class Pilotage_Roster {
	public static function all() {
		global $wpdb;
		return $wpdb->get_results( "SELECT name, licence FROM {$wpdb->prefix}pilotage_pilot ORDER BY name" );
	}

	public static function draw() {
		$html = '<ul class="pilots">';
		foreach ( self::all() as $pilot ) {
			$html .= '<li>' . esc_html( $pilot->name ) . '</li>';
		}
		return $html . '</ul>';
	}
}
