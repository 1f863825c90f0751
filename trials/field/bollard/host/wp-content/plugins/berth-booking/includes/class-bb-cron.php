<?php
defined( 'ABSPATH' ) || exit;

class BB_Cron {

	public static function init() {
		add_filter( 'cron_schedules', array( __CLASS__, 'schedules' ) );
		add_action( 'bb_remind', array( __CLASS__, 'remind' ) );
		add_action( 'bb_expire', array( __CLASS__, 'expire' ) );
		add_action( 'init', array( __CLASS__, 'schedule' ), 20 );
	}

	public static function schedules( $schedules ) {
		$schedules['bb_quarter_hour'] = array(
			'interval' => 15 * MINUTE_IN_SECONDS,
			'display'  => __( 'Every quarter of an hour', 'berth-booking' ),
		);
		return $schedules;
	}

	public static function schedule() {
		if ( ! wp_next_scheduled( 'bb_remind' ) ) {
			wp_schedule_event( time(), 'daily', 'bb_remind' );
		}
		if ( ! wp_next_scheduled( 'bb_expire' ) ) {
			wp_schedule_event( time(), 'bb_quarter_hour', 'bb_expire' );
		}
	}

	public static function remind() {
		foreach ( berth_booking()->bookings->next( 50 ) as $booking ) {
			$email = new BB_Email( 'reminder' );
			$email->send( $booking->booking_id );
		}
	}

	public static function expire() {
		global $wpdb;
		$table = $wpdb->prefix . BB_TABLE;
		$wpdb->query( $wpdb->prepare( "UPDATE $table SET status = 'left' WHERE DATE_ADD(arrives, INTERVAL nights DAY) < %s", current_time( 'Y-m-d' ) ) );
		delete_transient( 'bb_free_count' );
	}
}

BB_Cron::init();
