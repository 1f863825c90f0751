<?php
defined( 'ABSPATH' ) || exit;

class BB_Shortcodes {

	public static function init() {
		$shortcodes = array(
			'berth_booking_form' => __CLASS__ . '::form',
			'berth_list'         => __CLASS__ . '::berths',
			'berth_price'        => __CLASS__ . '::price',
		);
		foreach ( $shortcodes as $shortcode => $function ) {
			add_shortcode( apply_filters( "{$shortcode}_shortcode_tag", $shortcode ), $function );
		}
	}

	public static function form( $atts ) {
		$atts = shortcode_atts( array( 'berth' => 0 ), $atts, 'berth_booking_form' );
		wp_enqueue_script( 'bb-booking' );
		return bb_get_template_html(
			'form.php',
			array(
				'berth'  => absint( $atts['berth'] ),
				'berths' => get_posts( array( 'post_type' => 'berth', 'numberposts' => -1 ) ),
			)
		);
	}

	public static function berths( $atts ) {
		$atts = shortcode_atts( array( 'zone' => '', 'limit' => 10 ), $atts, 'berth_list' );
		$args = array( 'post_type' => 'berth', 'posts_per_page' => (int) $atts['limit'] );
		if ( $atts['zone'] ) {
			$args['tax_query'] = array( array( 'taxonomy' => 'berth_zone', 'field' => 'slug', 'terms' => explode( ',', $atts['zone'] ) ) );
		}
		$query = new WP_Query( $args );
		return bb_get_template_html( 'berths.php', array( 'berths' => $query->posts, 'wrapper' => '' ) );
	}

	public static function price( $atts, $content = '' ) {
		$atts = shortcode_atts( array( 'nights' => 1, 'length' => 10 ), $atts );
		return $content . bb_price_html( bb_price( (int) $atts['nights'], (float) $atts['length'] ) );
	}
}

BB_Shortcodes::init();
