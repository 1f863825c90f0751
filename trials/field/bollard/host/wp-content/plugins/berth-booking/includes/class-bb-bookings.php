<?php
defined( 'ABSPATH' ) || exit;

/**
 * The table of bookings.
 */
class BB_Bookings {

	private $table;
	private $notes;

	public function __construct() {
		global $wpdb;
		$this->table = $wpdb->prefix . BB_TABLE;
		$this->notes = $wpdb->prefix . 'bb_notes';
	}

	public function find( $id ) {
		global $wpdb;
		return $wpdb->get_row( $wpdb->prepare( "SELECT * FROM {$this->table} WHERE booking_id = %d", $id ) );
	}

	public function query( $args = array() ) {
		global $wpdb;
		$args  = wp_parse_args( $args, array( 'status' => '', 'search' => '', 'number' => 20, 'offset' => 0, 'orderby' => 'arrives', 'order' => 'ASC' ) );
		$where = array( '1=1' );
		$values = array();
		if ( $args['status'] ) {
			$where[]  = 'status = %s';
			$values[] = $args['status'];
		}
		if ( $args['search'] ) {
			$where[]  = '(boat LIKE %s OR skipper LIKE %s)';
			$like     = '%' . $wpdb->esc_like( $args['search'] ) . '%';
			$values[] = $like;
			$values[] = $like;
		}
		$orderby  = in_array( $args['orderby'], array( 'arrives', 'boat', 'created' ), true ) ? $args['orderby'] : 'arrives';
		$order    = 'DESC' === strtoupper( $args['order'] ) ? 'DESC' : 'ASC';
		$values[] = (int) $args['number'];
		$values[] = (int) $args['offset'];
		$sql      = "SELECT b.*, p.post_title AS berth FROM {$this->table} b LEFT JOIN {$wpdb->posts} p ON p.ID = b.berth_id WHERE " . implode( ' AND ', $where ) . " ORDER BY $orderby $order LIMIT %d OFFSET %d";
		return $wpdb->get_results( $wpdb->prepare( $sql, $values ) );
	}

	public function count( $status = '' ) {
		global $wpdb;
		if ( $status ) {
			return (int) $wpdb->get_var( $wpdb->prepare( "SELECT COUNT(*) FROM {$this->table} WHERE status = %s", $status ) );
		}
		return (int) $wpdb->get_var( "SELECT COUNT(*) FROM {$this->table}" );
	}

	public function next( $number = 3 ) {
		global $wpdb;
		return $wpdb->get_results(
			$wpdb->prepare(
				"SELECT booking_id, boat, arrives, nights FROM {$this->table} WHERE arrives >= %s AND status <> 'left' ORDER BY arrives LIMIT %d",
				current_time( 'Y-m-d' ),
				$number
			)
		);
	}

	public function insert( $data ) {
		global $wpdb;
		$data = wp_parse_args( $data, array( 'status' => 'asked', 'created' => current_time( 'mysql' ) ) );
		$done = $wpdb->insert( $this->table, $data );
		if ( ! $done ) {
			return new WP_Error( 'bb_not_saved', __( 'The booking could not be saved.', 'berth-booking' ) );
		}
		do_action( 'bb_booking_created', $wpdb->insert_id, $data );
		return $wpdb->insert_id;
	}

	public function set_status( $id, $status ) {
		global $wpdb;
		$old = $this->find( $id );
		$wpdb->update( $this->table, array( 'status' => $status ), array( 'booking_id' => $id ), array( '%s' ), array( '%d' ) );
		if ( $old && $old->status !== $status ) {
			do_action( 'bb_booking_status', $id, $status, $old->status );
		}
	}

	public function add_note( $id, $note ) {
		global $wpdb;
		$wpdb->insert( $this->notes, array( 'booking_id' => $id, 'note' => $note ), array( '%d', '%s' ) );
	}

	public function notes_of( $id ) {
		global $wpdb;
		return $wpdb->get_col( $wpdb->prepare( "SELECT note FROM {$this->notes} WHERE booking_id = %d ORDER BY note_id", $id ) );
	}

	public function income_by_month() {
		global $wpdb;
		return $wpdb->get_results( "SELECT MONTH(arrives) AS month, SUM(nights) AS nights FROM {$this->table} GROUP BY MONTH(arrives) ORDER BY month" );
	}
}
