<?php
defined( 'ABSPATH' ) || exit;

class BB_Privacy {

	public static function init() {
		add_filter( 'wp_privacy_personal_data_exporters', array( __CLASS__, 'exporters' ) );
		add_filter( 'wp_privacy_personal_data_erasers', array( __CLASS__, 'erasers' ) );
		add_filter( 'site_status_tests', array( __CLASS__, 'tests' ) );
	}

	public static function exporters( $exporters ) {
		$exporters['berth-booking'] = array(
			'exporter_friendly_name' => __( 'Berth bookings', 'berth-booking' ),
			'callback'               => array( __CLASS__, 'export' ),
		);
		return $exporters;
	}

	public static function erasers( $erasers ) {
		$erasers['berth-booking'] = array(
			'eraser_friendly_name' => __( 'Berth bookings', 'berth-booking' ),
			'callback'             => array( __CLASS__, 'erase' ),
		);
		return $erasers;
	}

	public static function export( $email, $page = 1 ) {
		global $wpdb;
		$table = $wpdb->prefix . BB_TABLE;
		$items = array();
		foreach ( $wpdb->get_results( $wpdb->prepare( "SELECT booking_id, boat, arrives FROM $table WHERE email = %s", $email ) ) as $row ) {
			$items[] = array(
				'group_id'    => 'bb_bookings',
				'group_label' => __( 'Berth bookings', 'berth-booking' ),
				'item_id'     => "booking-{$row->booking_id}",
				'data'        => array( array( 'name' => __( 'Boat', 'berth-booking' ), 'value' => $row->boat ) ),
			);
		}
		return array( 'data' => $items, 'done' => true );
	}

	public static function erase( $email, $page = 1 ) {
		global $wpdb;
		$removed = $wpdb->update( $wpdb->prefix . BB_TABLE, array( 'email' => '', 'skipper' => '' ), array( 'email' => $email ) );
		return array( 'items_removed' => (bool) $removed, 'items_retained' => false, 'messages' => array(), 'done' => true );
	}

	public static function tests( $tests ) {
		$tests['direct']['berth_booking'] = array(
			'label' => __( 'Berth bookings', 'berth-booking' ),
			'test'  => array( __CLASS__, 'health' ),
		);
		return $tests;
	}

	public static function health() {
		return array(
			'label'       => __( 'Bookings can be taken', 'berth-booking' ),
			'status'      => get_option( 'bb_page_id' ) ? 'good' : 'recommended',
			'badge'       => array( 'label' => __( 'Harbour', 'berth-booking' ), 'color' => 'blue' ),
			'description' => '<p>' . esc_html__( 'The page for bookings exists.', 'berth-booking' ) . '</p>',
			'actions'     => '',
			'test'        => 'berth_booking',
		);
	}
}

BB_Privacy::init();
