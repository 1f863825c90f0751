<?php
defined( 'ABSPATH' ) || exit;

class BB_Admin {

	public function __construct() {
		add_action( 'init', array( $this, 'includes' ) );
		add_action( 'admin_menu', array( $this, 'menu' ), 9 );
		add_action( 'admin_enqueue_scripts', array( $this, 'scripts' ) );
		add_action( 'admin_post_bb_export', array( $this, 'export' ) );
		add_action( 'admin_notices', array( $this, 'notices' ) );
		add_action( 'wp_dashboard_setup', array( $this, 'dashboard' ) );
		add_action( 'admin_bar_menu', array( $this, 'bar' ), 80 );
		add_filter( 'set-screen-option', array( $this, 'keep_option' ), 10, 3 );
		add_filter( 'display_post_states', array( $this, 'states' ), 10, 2 );
	}

	public function includes() {
		include_once __DIR__ . '/class-bb-admin-berths.php';
		include_once __DIR__ . '/class-bb-admin-settings.php';
		include_once __DIR__ . '/class-bb-admin-profile.php';
		include_once __DIR__ . '/class-bb-admin-zones.php';
	}

	public function menu() {
		$hook = add_menu_page( __( 'Bookings', 'berth-booking' ), __( 'Bookings', 'berth-booking' ), 'manage_berths', 'bb-bookings', array( $this, 'bookings_page' ), 'dashicons-calendar-alt', 26 );
		add_action( "load-$hook", array( $this, 'load_bookings' ) );
		add_submenu_page( 'bb-bookings', __( 'Income', 'berth-booking' ), __( 'Income', 'berth-booking' ), 'manage_berths', 'bb-income', array( $this, 'income_page' ) );
		add_submenu_page( 'bb-bookings', __( 'Settings', 'berth-booking' ), __( 'Settings', 'berth-booking' ), 'manage_options', 'bb-settings', array( 'BB_Admin_Settings', 'output' ) );
		add_submenu_page( 'edit.php?post_type=berth', __( 'Plan', 'berth-booking' ), __( 'Plan', 'berth-booking' ), 'edit_posts', 'bb-plan', array( $this, 'plan_page' ) );
	}

	public function load_bookings() {
		add_screen_option( 'per_page', array( 'label' => __( 'Bookings a page', 'berth-booking' ), 'default' => 20, 'option' => 'bb_per_page' ) );
		get_current_screen()->add_help_tab( array( 'id' => 'bb-help', 'title' => __( 'Bookings', 'berth-booking' ), 'content' => '<p>' . esc_html__( 'Confirm a booking to send a letter.', 'berth-booking' ) . '</p>' ) );
		require_once __DIR__ . '/class-bb-admin-table.php';
		$table  = new BB_Admin_Table();
		$action = $table->current_action();
		if ( $action && ! empty( $_REQUEST['booking'] ) ) {
			check_admin_referer( 'bulk-bookings' );
			foreach ( array_map( 'absint', (array) $_REQUEST['booking'] ) as $id ) {
				berth_booking()->bookings->set_status( $id, 'confirm' === $action ? 'confirmed' : 'left' );
			}
			wp_safe_redirect( admin_url( 'admin.php?page=bb-bookings&done=1' ) );
			exit;
		}
	}

	public function keep_option( $keep, $option, $value ) {
		return 'bb_per_page' === $option ? absint( $value ) : $keep;
	}

	public function bookings_page() {
		$table = new BB_Admin_Table();
		$table->prepare_items();
		?>
		<div class="wrap">
			<h1 class="wp-heading-inline"><?php esc_html_e( 'Bookings', 'berth-booking' ); ?></h1>
			<a class="page-title-action" href="<?php echo esc_url( wp_nonce_url( admin_url( 'admin-post.php?action=bb_export' ), 'bb_export' ) ); ?>"><?php esc_html_e( 'Export', 'berth-booking' ); ?></a>
			<?php $table->views(); ?>
			<form method="get">
				<input type="hidden" name="page" value="bb-bookings">
				<?php $table->search_box( __( 'Search bookings', 'berth-booking' ), 'booking' ); ?>
				<?php $table->display(); ?>
			</form>
		</div>
		<?php
	}

	public function income_page() {
		$options = bb_options();
		echo '<div class="wrap"><h1>' . esc_html__( 'Income', 'berth-booking' ) . '</h1><table class="widefat">';
		foreach ( berth_booking()->bookings->income_by_month() as $row ) {
			printf( '<tr><td>%s</td><td>%s</td></tr>', esc_html( $GLOBALS['wp_locale']->get_month( $row->month ) ), esc_html( number_format_i18n( $row->nights * $options['price'], 2 ) ) );
		}
		echo '</table></div>';
	}

	public function plan_page() {
		$zones = get_terms( array( 'taxonomy' => 'berth_zone', 'hide_empty' => false ) );
		echo '<div class="wrap"><h1>' . esc_html__( 'Plan of the harbour', 'berth-booking' ) . '</h1>';
		foreach ( $zones as $zone ) {
			printf( '<h2>%s</h2>', esc_html( $zone->name ) );
		}
		echo '</div>';
	}

	public function scripts( $hook ) {
		wp_register_style( 'bb-admin', berth_booking()->plugin_url() . '/assets/css/admin.css', array(), BB_VERSION );
		if ( 'toplevel_page_bb-bookings' === $hook ) {
			wp_enqueue_style( 'bb-admin' );
			wp_enqueue_script( 'bb-admin', berth_booking()->plugin_url() . '/assets/js/admin.js', array( 'jquery' ), BB_VERSION, true );
			wp_localize_script( 'bb-admin', 'bb_admin', array( 'security' => wp_create_nonce( 'bb-admin' ) ) );
		}
	}

	public function export() {
		check_admin_referer( 'bb_export' );
		if ( ! current_user_can( 'manage_berths' ) ) {
			wp_die( esc_html__( 'Not allowed.', 'berth-booking' ) );
		}
		header( 'Content-Type: text/csv; charset=utf-8' );
		header( 'Content-Disposition: attachment; filename=bookings.csv' );
		$out = fopen( 'php://output', 'w' );
		fputcsv( $out, array( 'id', 'boat', 'arrives', 'status' ) );
		foreach ( berth_booking()->bookings->query( array( 'number' => 1000 ) ) as $row ) {
			fputcsv( $out, array( $row->booking_id, $row->boat, $row->arrives, $row->status ) );
		}
		fclose( $out );
		exit;
	}

	public function notices() {
		$screen = get_current_screen();
		if ( $screen && 'toplevel_page_bb-bookings' === $screen->id && isset( $_GET['done'] ) ) {
			echo '<div class="notice notice-success"><p>' . esc_html__( 'Done.', 'berth-booking' ) . '</p></div>';
		}
	}

	public function dashboard() {
		if ( current_user_can( 'manage_berths' ) ) {
			wp_add_dashboard_widget( 'bb_dashboard', __( 'Bookings', 'berth-booking' ), array( $this, 'dashboard_widget' ) );
		}
	}

	public function dashboard_widget() {
		echo '<ul>';
		foreach ( bb_statuses() as $status => $label ) {
			printf( '<li>%s: %d</li>', esc_html( $label ), absint( berth_booking()->bookings->count( $status ) ) );
		}
		echo '</ul>';
	}

	public function bar( $bar ) {
		if ( ! current_user_can( 'manage_berths' ) ) {
			return;
		}
		$bar->add_node( array( 'id' => 'bb-bookings', 'title' => __( 'Bookings', 'berth-booking' ), 'href' => admin_url( 'admin.php?page=bb-bookings' ) ) );
	}

	public function states( $states, $post ) {
		if ( (int) get_option( 'bb_page_id' ) === $post->ID ) {
			$states['bb_page'] = __( 'Page for bookings', 'berth-booking' );
		}
		return $states;
	}
}

return new BB_Admin();
