<?php
function slip_hire_table() {
	global $wpdb;
	return $wpdb->prefix . 'slip_hires';
}

function slip_hire_all( $slip = 0 ) {
	global $wpdb;
	$table = slip_hire_table();
	if ( $slip ) {
		return $wpdb->get_results( $wpdb->prepare( "SELECT * FROM {$table} WHERE slip_id = %d ORDER BY starts", $slip ) );
	}
	return $wpdb->get_results( "SELECT id, slip_id, boat, starts, days FROM {$table} ORDER BY starts" );
}

function slip_hire_add( $slip, $boat, $starts, $days ) {
	global $wpdb;
	$wpdb->insert(
		slip_hire_table(),
		array( 'slip_id' => $slip, 'boat' => $boat, 'starts' => $starts, 'days' => $days ),
		array( '%d', '%s', '%s', '%d' )
	);
	do_action( 'slip_hire_added', $wpdb->insert_id, $slip );
	return $wpdb->insert_id;
}

function slip_hire_close_old() {
	global $wpdb;
	$table = slip_hire_table();
	$wpdb->query( $wpdb->prepare( "DELETE FROM {$table} WHERE starts < %s", gmdate( 'Y-m-d', time() - YEAR_IN_SECONDS ) ) );
}

function slip_hire_price( $days ) {
	$options = get_option( 'slip_hire_options', array( 'price' => 25 ) );
	return apply_filters( 'slip_hire_price', $days * (float) $options['price'], $days );
}
