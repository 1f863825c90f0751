<?php
defined( 'ABSPATH' ) || exit;

class BB_AJAX {

	public static function init() {
		$events = array(
			'price'  => true,
			'status' => false,
			'note'   => false,
		);
		foreach ( $events as $event => $nopriv ) {
			add_action( 'wp_ajax_bb_' . $event, array( __CLASS__, $event ) );
			if ( $nopriv ) {
				add_action( 'wp_ajax_nopriv_bb_' . $event, array( __CLASS__, $event ) );
			}
		}
	}

	public static function price() {
		check_ajax_referer( 'bb-price', 'security' );
		$nights = isset( $_POST['nights'] ) ? absint( $_POST['nights'] ) : 1;
		$length = isset( $_POST['length'] ) ? (float) $_POST['length'] : 10;
		wp_send_json_success( array( 'html' => bb_price_html( bb_price( $nights, $length ) ) ) );
	}

	public static function status() {
		check_ajax_referer( 'bb-admin', 'security' );
		if ( ! current_user_can( 'manage_berths' ) ) {
			wp_send_json_error( array( 'message' => __( 'Not allowed.', 'berth-booking' ) ), 403 );
		}
		$id     = isset( $_POST['id'] ) ? absint( $_POST['id'] ) : 0;
		$status = isset( $_POST['status'] ) ? sanitize_key( $_POST['status'] ) : '';
		if ( ! array_key_exists( $status, bb_statuses() ) ) {
			wp_send_json_error( array( 'message' => __( 'No such status.', 'berth-booking' ) ), 400 );
		}
		berth_booking()->bookings->set_status( $id, $status );
		wp_send_json_success();
	}

	public static function note() {
		check_ajax_referer( 'bb-admin', 'security' );
		if ( ! current_user_can( 'manage_berths' ) ) {
			wp_die( -1, 403 );
		}
		$id   = isset( $_POST['id'] ) ? absint( $_POST['id'] ) : 0;
		$note = isset( $_POST['note'] ) ? sanitize_textarea_field( wp_unslash( $_POST['note'] ) ) : '';
		berth_booking()->bookings->add_note( $id, $note );
		wp_send_json_success( array( 'notes' => berth_booking()->bookings->notes_of( $id ) ) );
	}
}

BB_AJAX::init();
