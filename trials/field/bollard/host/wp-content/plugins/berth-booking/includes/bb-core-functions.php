<?php
defined( 'ABSPATH' ) || exit;

/**
 * Finds a template: the theme's, or the one of this module.
 */
function bb_locate_template( $name ) {
	$found = locate_template( array( berth_booking()->template_path() . $name, $name ) );
	if ( ! $found ) {
		$found = berth_booking()->plugin_path() . '/templates/' . $name;
	}
	return apply_filters( 'bb_locate_template', $found, $name );
}

function bb_get_template( $name, $args = array() ) {
	$located = bb_locate_template( $name );
	if ( ! file_exists( $located ) ) {
		/* translators: %s: file name */
		_doing_it_wrong( __FUNCTION__, sprintf( esc_html__( '%s does not exist.', 'berth-booking' ), esc_html( $located ) ), '2.0' );
		return;
	}
	extract( $args ); // phpcs:ignore WordPress.PHP.DontExtract
	include $located;
}

function bb_get_template_html( $name, $args = array() ) {
	ob_start();
	bb_get_template( $name, $args );
	return ob_get_clean();
}

function bb_options() {
	return wp_parse_args(
		get_option( 'bb_settings', array() ),
		array(
			'price'  => 18,
			'season' => 'summer',
			'notify' => get_option( 'admin_email' ),
		)
	);
}

function bb_statuses() {
	return array(
		'asked'     => _x( 'Asked', 'booking', 'berth-booking' ),
		'confirmed' => _x( 'Confirmed', 'booking', 'berth-booking' ),
		'left'      => _x( 'Left', 'booking', 'berth-booking' ),
	);
}

function bb_price( $nights, $length ) {
	$options = bb_options();
	return round( $nights * $length * (float) $options['price'] / 10, 2 );
}

function bb_price_html( $amount ) {
	return sprintf( '<span class="bb-price">%s</span>', esc_html( number_format_i18n( $amount, 2 ) ) );
}
