<?php
class Slip_Hire_Admin {
	public function __construct() {
		add_action( 'admin_menu', array( $this, 'menu' ) );
		add_action( 'admin_init', array( $this, 'settings' ) );
		add_action( 'add_meta_boxes', array( $this, 'boxes' ) );
		add_action( 'save_post_slip', array( $this, 'save' ), 10, 2 );
		add_action( 'admin_enqueue_scripts', array( $this, 'assets' ) );
		add_filter( 'plugin_action_links_' . plugin_basename( SLIP_HIRE_FILE ), array( $this, 'links' ) );
		add_action( 'wp_dashboard_setup', array( $this, 'dashboard' ) );
	}

	public function menu() {
		add_menu_page( __( 'Slip hires', 'slip-hire' ), __( 'Slip hires', 'slip-hire' ), 'manage_slips', 'slip-hires', array( $this, 'hires_page' ), 'dashicons-calendar', 30 );
		add_submenu_page( 'slip-hires', __( 'Prices', 'slip-hire' ), __( 'Prices', 'slip-hire' ), 'manage_slips', 'slip-hire-prices', array( $this, 'prices_page' ) );
		add_options_page( __( 'Slip hire', 'slip-hire' ), __( 'Slip hire', 'slip-hire' ), 'manage_options', 'slip-hire', array( $this, 'settings_page' ) );
	}

	public function settings() {
		register_setting( 'slip_hire', 'slip_hire_options', array( 'sanitize_callback' => array( $this, 'clean' ) ) );
		add_settings_section( 'slip_hire_prices', __( 'Prices', 'slip-hire' ), '__return_false', 'slip-hire' );
		add_settings_field( 'slip_hire_price', __( 'Price a day', 'slip-hire' ), array( $this, 'price_field' ), 'slip-hire', 'slip_hire_prices' );
	}

	public function clean( $given ) {
		return array( 'price' => (float) ( $given['price'] ?? 0 ) );
	}

	public function price_field() {
		$options = get_option( 'slip_hire_options' );
		printf( '<input type="number" name="slip_hire_options[price]" value="%s">', esc_attr( $options['price'] ?? '' ) );
	}

	public function hires_page() {
		echo '<div class="wrap"><h1>' . esc_html( get_admin_page_title() ) . '</h1><ul>';
		foreach ( slip_hire_all() as $hire ) {
			echo '<li>' . esc_html( $hire->boat ) . '</li>';
		}
		echo '</ul></div>';
	}

	public function prices_page() {
		echo '<div class="wrap"><h1>' . esc_html__( 'Prices', 'slip-hire' ) . '</h1><p>' . esc_html( slip_hire_price( 1 ) ) . '</p></div>';
	}

	public function settings_page() {
		echo '<div class="wrap"><form action="options.php" method="post">';
		settings_fields( 'slip_hire' );
		do_settings_sections( 'slip-hire' );
		submit_button();
		echo '</form></div>';
	}

	public function boxes() {
		add_meta_box( 'slip_length', __( 'Length', 'slip-hire' ), array( $this, 'length_box' ), 'slip', 'side' );
	}

	public function length_box( $post ) {
		wp_nonce_field( 'slip_length', 'slip_length_nonce' );
		echo '<input name="slip_length" value="' . esc_attr( get_post_meta( $post->ID, 'slip_length', true ) ) . '">';
	}

	public function save( $post_id, $post ) {
		if ( ! isset( $_POST['slip_length_nonce'] ) || ! wp_verify_nonce( sanitize_key( $_POST['slip_length_nonce'] ), 'slip_length' ) ) {
			return;
		}
		update_post_meta( $post_id, 'slip_length', (float) $_POST['slip_length'] );
	}

	public function assets( $hook ) {
		if ( 'toplevel_page_slip-hires' === $hook ) {
			wp_enqueue_style( 'slip-hire-admin', SLIP_HIRE_URL . 'assets/admin.css', array(), '2.3.1' );
		}
	}

	public function links( $links ) {
		$links[] = '<a href="' . esc_url( admin_url( 'options-general.php?page=slip-hire' ) ) . '">' . esc_html__( 'Settings', 'slip-hire' ) . '</a>';
		return $links;
	}

	public function dashboard() {
		wp_add_dashboard_widget( 'slip_hire', __( 'Slip hires', 'slip-hire' ), array( $this, 'dashboard_box' ) );
	}

	public function dashboard_box() {
		echo '<p>' . count( slip_hire_all() ) . '</p>';
	}
}
