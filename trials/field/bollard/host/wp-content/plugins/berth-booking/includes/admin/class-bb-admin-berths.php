<?php
defined( 'ABSPATH' ) || exit;

class BB_Admin_Berths {

	public function __construct() {
		add_action( 'add_meta_boxes', array( $this, 'boxes' ) );
		add_action( 'save_post_berth', array( $this, 'save' ), 10, 2 );
		add_filter( 'manage_berth_posts_columns', array( $this, 'columns' ) );
		add_action( 'manage_berth_posts_custom_column', array( $this, 'column' ), 10, 2 );
		add_filter( 'manage_edit-berth_sortable_columns', array( $this, 'sortable' ) );
		add_action( 'pre_get_posts', array( $this, 'order' ) );
		add_filter( 'post_row_actions', array( $this, 'row_actions' ), 10, 2 );
		add_filter( 'bulk_actions-edit-berth', array( $this, 'bulk_actions' ) );
		add_filter( 'handle_bulk_actions-edit-berth', array( $this, 'handle' ), 10, 3 );
		add_action( 'restrict_manage_posts', array( $this, 'filters' ) );
		add_action( 'quick_edit_custom_box', array( $this, 'quick_edit' ), 10, 2 );
		add_filter( 'enter_title_here', array( $this, 'title_hint' ), 10, 2 );
		add_filter( 'post_updated_messages', array( $this, 'messages' ) );
	}

	public function boxes() {
		add_meta_box( 'bb-berth', __( 'Berth', 'berth-booking' ), array( $this, 'box' ), 'berth', 'side', 'default' );
		add_meta_box( 'bb-bookings', __( 'Bookings', 'berth-booking' ), array( $this, 'bookings_box' ), 'berth', 'normal' );
	}

	public function box( $post ) {
		wp_nonce_field( 'bb_save_berth', 'bb_berth_nonce' );
		$length = get_post_meta( $post->ID, '_bb_length', true );
		printf( '<p><label>%s <input type="number" step="0.1" name="bb_length" value="%s"></label></p>', esc_html__( 'Length', 'berth-booking' ), esc_attr( $length ) );
	}

	public function bookings_box( $post ) {
		global $wpdb;
		$rows = $wpdb->get_results( $wpdb->prepare( "SELECT boat, arrives FROM {$wpdb->prefix}bb_bookings WHERE berth_id = %d", $post->ID ) );
		echo '<ul>';
		foreach ( $rows as $row ) {
			printf( '<li>%s (%s)</li>', esc_html( $row->boat ), esc_html( $row->arrives ) );
		}
		echo '</ul>';
	}

	public function save( $post_id, $post ) {
		if ( defined( 'DOING_AUTOSAVE' ) && DOING_AUTOSAVE ) {
			return;
		}
		if ( ! isset( $_POST['bb_berth_nonce'] ) || ! wp_verify_nonce( sanitize_key( $_POST['bb_berth_nonce'] ), 'bb_save_berth' ) ) {
			return;
		}
		if ( ! current_user_can( 'edit_post', $post_id ) ) {
			return;
		}
		if ( isset( $_POST['bb_length'] ) ) {
			update_post_meta( $post_id, '_bb_length', (float) $_POST['bb_length'] );
		}
	}

	public function columns( $columns ) {
		$new = array();
		foreach ( $columns as $key => $label ) {
			$new[ $key ] = $label;
			if ( 'title' === $key ) {
				$new['bb_length'] = __( 'Length', 'berth-booking' );
			}
		}
		return $new;
	}

	public function column( $column, $post_id ) {
		if ( 'bb_length' === $column ) {
			echo esc_html( number_format_i18n( (float) get_post_meta( $post_id, '_bb_length', true ), 1 ) );
		}
	}

	public function sortable( $columns ) {
		$columns['bb_length'] = 'bb_length';
		return $columns;
	}

	public function order( $query ) {
		if ( is_admin() && $query->is_main_query() && 'bb_length' === $query->get( 'orderby' ) ) {
			$query->set( 'meta_key', '_bb_length' );
			$query->set( 'orderby', 'meta_value_num' );
		}
	}

	public function row_actions( $actions, $post ) {
		if ( 'berth' === $post->post_type ) {
			$actions['prices'] = sprintf( '<a href="%s">%s</a>', esc_url( trailingslashit( get_permalink( $post ) ) . 'prices/' ), esc_html__( 'Prices', 'berth-booking' ) );
		}
		return $actions;
	}

	public function bulk_actions( $actions ) {
		$actions['bb_close'] = __( 'Close', 'berth-booking' );
		return $actions;
	}

	public function handle( $redirect, $action, $ids ) {
		if ( 'bb_close' !== $action ) {
			return $redirect;
		}
		foreach ( $ids as $id ) {
			wp_update_post( array( 'ID' => $id, 'post_status' => 'bb_closed' ) );
		}
		return add_query_arg( 'bb_closed', count( $ids ), $redirect );
	}

	public function filters( $post_type ) {
		if ( 'berth' !== $post_type ) {
			return;
		}
		wp_dropdown_categories( array( 'taxonomy' => 'berth_zone', 'name' => 'berth_zone', 'value_field' => 'slug', 'show_option_all' => __( 'All zones', 'berth-booking' ), 'hide_empty' => false ) );
	}

	public function quick_edit( $column, $post_type ) {
		if ( 'berth' === $post_type && 'bb_length' === $column ) {
			echo '<fieldset class="inline-edit-col-right"><label>' . esc_html__( 'Length', 'berth-booking' ) . ' <input name="bb_length"></label></fieldset>';
		}
	}

	public function title_hint( $text, $post ) {
		return 'berth' === $post->post_type ? __( 'Number of the berth', 'berth-booking' ) : $text;
	}

	public function messages( $messages ) {
		$messages['berth'] = array( 1 => __( 'Berth saved.', 'berth-booking' ), 6 => __( 'Berth published.', 'berth-booking' ) );
		return $messages;
	}
}

new BB_Admin_Berths();
