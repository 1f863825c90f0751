<?php
defined( 'ABSPATH' ) || exit;

if ( ! class_exists( 'WP_List_Table' ) ) {
	require_once ABSPATH . 'wp-admin/includes/class-wp-list-table.php';
}

class BB_Admin_Table extends WP_List_Table {

	public function __construct() {
		parent::__construct( array( 'singular' => 'booking', 'plural' => 'bookings', 'ajax' => false ) );
	}

	public function get_columns() {
		return array(
			'cb'      => '<input type="checkbox">',
			'boat'    => __( 'Boat', 'berth-booking' ),
			'berth'   => __( 'Berth', 'berth-booking' ),
			'arrives' => __( 'Arrives', 'berth-booking' ),
			'price'   => __( 'Price', 'berth-booking' ),
			'status'  => __( 'Status', 'berth-booking' ),
		);
	}

	protected function get_sortable_columns() {
		return array(
			'boat'    => array( 'boat', false ),
			'arrives' => array( 'arrives', true ),
		);
	}

	protected function get_bulk_actions() {
		return array( 'confirm' => __( 'Confirm', 'berth-booking' ), 'leave' => __( 'Has left', 'berth-booking' ) );
	}

	protected function get_views() {
		$views = array( 'all' => sprintf( '<a href="%s">%s</a>', esc_url( admin_url( 'admin.php?page=bb-bookings' ) ), esc_html__( 'All', 'berth-booking' ) ) );
		foreach ( bb_statuses() as $status => $label ) {
			$views[ $status ] = sprintf( '<a href="%s">%s (%d)</a>', esc_url( add_query_arg( 'status', $status, admin_url( 'admin.php?page=bb-bookings' ) ) ), esc_html( $label ), berth_booking()->bookings->count( $status ) );
		}
		return $views;
	}

	public function prepare_items() {
		$per_page    = $this->get_items_per_page( 'bb_per_page', 20 );
		$status      = isset( $_GET['status'] ) ? sanitize_key( $_GET['status'] ) : '';
		$this->items = berth_booking()->bookings->query(
			array(
				'status'  => $status,
				'search'  => isset( $_GET['s'] ) ? sanitize_text_field( wp_unslash( $_GET['s'] ) ) : '',
				'number'  => $per_page,
				'offset'  => ( $this->get_pagenum() - 1 ) * $per_page,
				'orderby' => isset( $_GET['orderby'] ) ? sanitize_key( $_GET['orderby'] ) : 'arrives',
				'order'   => isset( $_GET['order'] ) ? sanitize_key( $_GET['order'] ) : 'ASC',
			)
		);
		$this->set_pagination_args( array( 'total_items' => berth_booking()->bookings->count( $status ), 'per_page' => $per_page ) );
	}

	protected function column_cb( $item ) {
		return sprintf( '<input type="checkbox" name="booking[]" value="%d">', $item->booking_id );
	}

	protected function column_boat( $item ) {
		$actions = array( 'confirm' => sprintf( '<button class="button-link bb-confirm" data-id="%d">%s</button>', $item->booking_id, esc_html__( 'Confirm', 'berth-booking' ) ) );
		return '<strong>' . esc_html( $item->boat ) . '</strong>' . $this->row_actions( $actions );
	}

	protected function column_price( $item ) {
		return bb_price_html( bb_price( $item->nights, $item->length_m ) );
	}

	protected function column_status( $item ) {
		$statuses = bb_statuses();
		return '<span class="bb-status">' . esc_html( $statuses[ $item->status ] ) . '</span>';
	}

	protected function column_default( $item, $column_name ) {
		return esc_html( $item->$column_name );
	}

	public function no_items() {
		esc_html_e( 'No booking yet.', 'berth-booking' );
	}
}
