<?php
defined( 'ABSPATH' ) or die;

add_action( 'wp_ajax_sigw_report', 'sigw_report' );
add_action( 'wp_ajax_nopriv_sigw_report', 'sigw_report' );
function sigw_report() {
	check_ajax_referer( 'sigw_report', 'key' );
	global $wpdb;
	$wpdb->insert( sigw_table(), array( 'signal_id' => absint( $_POST['signal'] ), 'who' => sanitize_text_field( wp_unslash( $_POST['who'] ) ) ) );
	wp_send_json_success();
}

function sigw_reports() {
	global $wpdb;
	return $wpdb->get_results( 'SELECT id, signal_id, who FROM ' . sigw_table() . ' ORDER BY id DESC' );
}
