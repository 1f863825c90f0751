<?php
defined( 'ABSPATH' ) || exit;

class BB_Admin_Zones {

	public function __construct() {
		add_action( 'berth_zone_add_form_fields', array( $this, 'add_field' ) );
		add_action( 'berth_zone_edit_form_fields', array( $this, 'edit_field' ), 10, 2 );
		add_action( 'created_berth_zone', array( $this, 'save' ) );
		add_action( 'edited_berth_zone', array( $this, 'save' ) );
		add_filter( 'manage_edit-berth_zone_columns', array( $this, 'columns' ) );
		add_filter( 'manage_berth_zone_custom_column', array( $this, 'column' ), 10, 3 );
	}

	public function add_field( $taxonomy ) {
		echo '<div class="form-field"><label for="bb_depth">' . esc_html__( 'Depth', 'berth-booking' ) . '</label><input name="bb_depth" id="bb_depth"></div>';
	}

	public function edit_field( $term, $taxonomy ) {
		printf( '<tr class="form-field"><th><label for="bb_depth">%s</label></th><td><input name="bb_depth" id="bb_depth" value="%s"></td></tr>', esc_html__( 'Depth', 'berth-booking' ), esc_attr( get_term_meta( $term->term_id, 'bb_depth', true ) ) );
	}

	public function save( $term_id ) {
		if ( isset( $_POST['bb_depth'] ) ) {
			update_term_meta( $term_id, 'bb_depth', (float) $_POST['bb_depth'] );
		}
	}

	public function columns( $columns ) {
		$columns['bb_depth'] = __( 'Depth', 'berth-booking' );
		return $columns;
	}

	public function column( $content, $column, $term_id ) {
		if ( 'bb_depth' === $column ) {
			$content = esc_html( get_term_meta( $term_id, 'bb_depth', true ) );
		}
		return $content;
	}
}

new BB_Admin_Zones();
