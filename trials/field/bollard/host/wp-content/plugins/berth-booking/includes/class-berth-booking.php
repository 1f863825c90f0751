<?php
defined( 'ABSPATH' ) || exit;

final class Berth_Booking {

	public $version = '2.3.1';

	/** @var Berth_Booking|null */
	protected static $_instance = null;

	/** @var BB_Bookings */
	public $bookings;

	public static function instance() {
		if ( is_null( self::$_instance ) ) {
			self::$_instance = new self();
		}
		return self::$_instance;
	}

	private function __construct() {
		$this->define_constants();
		$this->includes();
		$this->init_hooks();
	}

	private function define( $name, $value ) {
		if ( ! defined( $name ) ) {
			define( $name, $value );
		}
	}

	private function define_constants() {
		$this->define( 'BB_ABSPATH', dirname( BERTH_BOOKING_FILE ) . '/' );
		$this->define( 'BB_VERSION', $this->version );
		$this->define( 'BB_TABLE', 'bb_bookings' );
	}

	private function is_request( $type ) {
		switch ( $type ) {
			case 'admin':
				return is_admin();
			case 'ajax':
				return defined( 'DOING_AJAX' );
			case 'cron':
				return defined( 'DOING_CRON' );
			case 'frontend':
				return ( ! is_admin() || defined( 'DOING_AJAX' ) ) && ! defined( 'DOING_CRON' );
		}
		return false;
	}

	public function includes() {
		include_once BB_ABSPATH . 'includes/bb-core-functions.php';
		include_once BB_ABSPATH . 'includes/class-bb-install.php';
		include_once BB_ABSPATH . 'includes/class-bb-post-types.php';
		include_once BB_ABSPATH . 'includes/class-bb-bookings.php';
		include_once BB_ABSPATH . 'includes/class-bb-ajax.php';
		include_once BB_ABSPATH . 'includes/class-bb-cron.php';
		include_once BB_ABSPATH . 'includes/class-bb-rest-controller.php';
		include_once BB_ABSPATH . 'includes/class-bb-blocks.php';
		include_once BB_ABSPATH . 'includes/class-bb-widget-next.php';
		include_once BB_ABSPATH . 'includes/class-bb-privacy.php';
		include_once BB_ABSPATH . 'includes/class-bb-customizer.php';
		include_once BB_ABSPATH . 'includes/emails/class-bb-email.php';

		if ( $this->is_request( 'admin' ) ) {
			include_once BB_ABSPATH . 'includes/admin/class-bb-admin.php';
		}
		if ( $this->is_request( 'frontend' ) ) {
			include_once BB_ABSPATH . 'includes/class-bb-template-loader.php';
			include_once BB_ABSPATH . 'includes/class-bb-shortcodes.php';
			include_once BB_ABSPATH . 'includes/class-bb-frontend.php';
		}
	}

	private function init_hooks() {
		register_activation_hook( BERTH_BOOKING_FILE, array( 'BB_Install', 'install' ) );
		register_deactivation_hook( BERTH_BOOKING_FILE, array( 'BB_Install', 'deactivate' ) );
		add_action( 'init', array( $this, 'init' ), 0 );
		add_action( 'widgets_init', array( $this, 'widgets' ) );
		add_action( 'rest_api_init', array( $this, 'rest' ) );
	}

	public function init() {
		load_plugin_textdomain( 'berth-booking', false, plugin_basename( dirname( BERTH_BOOKING_FILE ) ) . '/languages' );
		$this->bookings = new BB_Bookings();
		do_action( 'berth_booking_init', $this );
	}

	public function widgets() {
		register_widget( 'BB_Widget_Next' );
	}

	public function rest() {
		$controller = new BB_REST_Controller();
		$controller->register_routes();
	}

	public function template_path() {
		return apply_filters( 'berth_booking_template_path', 'berth-booking/' );
	}

	public function plugin_path() {
		return untrailingslashit( plugin_dir_path( BERTH_BOOKING_FILE ) );
	}

	public function plugin_url() {
		return untrailingslashit( plugins_url( '/', BERTH_BOOKING_FILE ) );
	}
}
