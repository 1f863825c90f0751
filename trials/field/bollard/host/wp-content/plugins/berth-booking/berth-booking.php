<?php
/**
 * Plugin Name:       Berth Booking
 * Description:       Visitors ask for a berth, the harbour office answers.
 * Version:           2.3.1
 * Requires at least: 5.9
 * Requires PHP:      7.4
 * Author:            Brindle Quay Harbour Office
 * License:           GPL-2.0-or-later
 * Text Domain:       berth-booking
 * Domain Path:       /languages
 */

defined( 'ABSPATH' ) || exit;

if ( ! defined( 'BERTH_BOOKING_FILE' ) ) {
	define( 'BERTH_BOOKING_FILE', __FILE__ );
}

if ( ! class_exists( 'Berth_Booking', false ) ) {
	include_once dirname( BERTH_BOOKING_FILE ) . '/includes/class-berth-booking.php';
}

/**
 * Returns the one instance.
 *
 * @return Berth_Booking
 */
function berth_booking() {
	return Berth_Booking::instance();
}

berth_booking();
