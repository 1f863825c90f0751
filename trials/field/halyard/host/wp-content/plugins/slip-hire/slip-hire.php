<?php
/**
 * Plugin Name: Slip Hire
 * Description: Hire of slipways in Brindle Quay.
 * Version: 2.3.1
 * Requires at least: 6.0
 * Requires PHP: 8.0
 * Text Domain: slip-hire
 * Domain Path: /languages
 */

if ( ! defined( 'ABSPATH' ) ) {
	exit;
}

define( 'SLIP_HIRE_FILE', __FILE__ );
define( 'SLIP_HIRE_DIR', plugin_dir_path( __FILE__ ) );
define( 'SLIP_HIRE_URL', plugin_dir_url( __FILE__ ) );

require_once SLIP_HIRE_DIR . 'includes/functions.php';
require_once SLIP_HIRE_DIR . 'includes/class-slip-hire-install.php';
require_once SLIP_HIRE_DIR . 'includes/class-slip-hire-types.php';
require_once SLIP_HIRE_DIR . 'includes/class-slip-hire-rest.php';
require_once SLIP_HIRE_DIR . 'includes/class-slip-hire-front.php';
require_once SLIP_HIRE_DIR . 'includes/class-slip-hire-widget.php';
if ( is_admin() ) {
	require_once SLIP_HIRE_DIR . 'includes/class-slip-hire-admin.php';
	new Slip_Hire_Admin();
}

register_activation_hook( __FILE__, array( 'Slip_Hire_Install', 'activate' ) );
register_deactivation_hook( __FILE__, array( 'Slip_Hire_Install', 'deactivate' ) );

add_action( 'plugins_loaded', 'slip_hire_load' );
function slip_hire_load() {
	load_plugin_textdomain( 'slip-hire', false, dirname( plugin_basename( __FILE__ ) ) . '/languages' );
	Slip_Hire_Types::init();
	Slip_Hire_Rest::init();
	Slip_Hire_Front::init();
}
add_action( 'widgets_init', function () {
	register_widget( 'Slip_Hire_Widget' );
} );
add_action( 'slip_hire_nightly', 'slip_hire_close_old' );
