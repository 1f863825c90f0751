<?php
defined( 'ABSPATH' ) || exit;

class BB_Email {

	private $kind;

	public static function init() {
		add_action( 'bb_booking_created', array( __CLASS__, 'created' ), 10, 2 );
		add_action( 'bb_booking_status', array( __CLASS__, 'status' ), 10, 3 );
	}

	public static function created( $id, $data ) {
		$email = new self( 'asked' );
		$email->send( $id );
	}

	public static function status( $id, $status, $before ) {
		if ( 'confirmed' === $status ) {
			$email = new self( 'confirmed' );
			$email->send( $id );
		}
		berth_booking()->bookings->add_note( $id, sprintf( '%s → %s', $before, $status ) );
	}

	public function __construct( $kind ) {
		$this->kind = $kind;
	}

	public function get_subject() {
		$subjects = array(
			'asked'     => __( 'Your berth at Brindle Quay', 'berth-booking' ),
			'confirmed' => __( 'Your berth is confirmed', 'berth-booking' ),
			'reminder'  => __( 'You arrive soon', 'berth-booking' ),
		);
		return $subjects[ $this->kind ];
	}

	public function get_content( $booking ) {
		return bb_get_template_html( "emails/{$this->kind}.php", array( 'booking' => $booking, 'price' => bb_price( $booking->nights, $booking->length_m ) ) );
	}

	public function send( $id ) {
		$booking = berth_booking()->bookings->find( $id );
		if ( ! $booking || ! is_email( $booking->email ) ) {
			return false;
		}
		return wp_mail( $booking->email, $this->get_subject(), $this->get_content( $booking ), array( 'Content-Type: text/html; charset=UTF-8' ) );
	}
}

BB_Email::init();
