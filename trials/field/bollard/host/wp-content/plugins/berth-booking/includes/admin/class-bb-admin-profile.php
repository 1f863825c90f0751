<?php
defined( 'ABSPATH' ) || exit;

class BB_Admin_Profile {

	public function __construct() {
		add_action( 'show_user_profile', array( $this, 'fields' ) );
		add_action( 'edit_user_profile', array( $this, 'fields' ) );
		add_action( 'personal_options_update', array( $this, 'save' ) );
		add_action( 'edit_user_profile_update', array( $this, 'save' ) );
		add_filter( 'manage_users_columns', array( $this, 'columns' ) );
		add_filter( 'manage_users_custom_column', array( $this, 'column' ), 10, 3 );
	}

	public function fields( $user ) {
		?>
		<h2><?php esc_html_e( 'Boat', 'berth-booking' ); ?></h2>
		<table class="form-table"><tr><th><label for="bb_boat"><?php esc_html_e( 'Name', 'berth-booking' ); ?></label></th>
		<td><input name="bb_boat" id="bb_boat" value="<?php echo esc_attr( get_user_meta( $user->ID, 'bb_boat', true ) ); ?>"></td></tr></table>
		<?php
	}

	public function save( $user_id ) {
		if ( current_user_can( 'edit_user', $user_id ) && isset( $_POST['bb_boat'] ) ) {
			update_user_meta( $user_id, 'bb_boat', sanitize_text_field( wp_unslash( $_POST['bb_boat'] ) ) );
		}
	}

	public function columns( $columns ) {
		$columns['bb_boat'] = __( 'Boat', 'berth-booking' );
		return $columns;
	}

	public function column( $output, $column, $user_id ) {
		return 'bb_boat' === $column ? esc_html( get_user_meta( $user_id, 'bb_boat', true ) ) : $output;
	}
}

new BB_Admin_Profile();
