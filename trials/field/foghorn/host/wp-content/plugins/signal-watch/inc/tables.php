<?php
defined( 'ABSPATH' ) or die;

function sigw_table() {
	return $GLOBALS['wpdb']->prefix . SIGW_TABLE;
}

function sigw_install() {
	require_once ABSPATH . 'wp-admin/includes/upgrade.php';
	$table = sigw_table();
	dbDelta( "CREATE TABLE $table (
  id int unsigned NOT NULL AUTO_INCREMENT,
  signal_id bigint unsigned NOT NULL,
  who varchar(80) NOT NULL DEFAULT '',
  heard tinyint(1) NOT NULL DEFAULT 0,
  PRIMARY KEY  (id)
);" );
	foreach ( array( 'administrator', 'editor' ) as $name ) {
		get_role( $name )->add_cap( 'mind_signals' );
	}
	add_option( 'sigw_settings', array( 'limit' => 10 ) );
	sigw_register();
	flush_rewrite_rules();
	if ( ! wp_next_scheduled( 'sigw_tidy' ) ) {
		wp_schedule_event( time(), 'daily', 'sigw_tidy' );
	}
}

function sigw_rest() {
	wp_clear_scheduled_hook( 'sigw_tidy' );
	flush_rewrite_rules();
}

add_action( 'sigw_tidy', 'sigw_tidy_reports' );
function sigw_tidy_reports() {
	$GLOBALS['wpdb']->query( 'DELETE FROM ' . sigw_table() . ' WHERE heard = 1' );
}
