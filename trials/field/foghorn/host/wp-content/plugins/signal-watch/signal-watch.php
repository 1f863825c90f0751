<?php
/*
Plugin Name: Signal watch
Description: Which fog signals sound, and who reported one that is silent.
Version: 3.2
Requires at least: 5.9
Requires PHP: 7.4
Author: Pier office of Brindle Quay
Text Domain: signal-watch
*/

defined( 'ABSPATH' ) or die;

define( 'SIGW_PATH', trailingslashit( plugin_dir_path( __FILE__ ) ) );
define( 'SIGW_URL', plugins_url( '/', __FILE__ ) );
define( 'SIGW_TABLE', 'sigw_reports' );

include_once SIGW_PATH . 'inc/tables.php';
include_once SIGW_PATH . 'inc/signals.php';
include_once SIGW_PATH . 'inc/reports.php';
include_once SIGW_PATH . 'inc/widget.php';
if ( is_admin() ) {
	include_once SIGW_PATH . 'inc/screens.php';
}
if ( file_exists( SIGW_PATH . 'local.php' ) ) {
	include SIGW_PATH . 'local.php';
}

register_activation_hook( __FILE__, 'sigw_install' );
register_deactivation_hook( __FILE__, 'sigw_rest' );

add_action( 'wp_enqueue_scripts', 'sigw_assets' );
function sigw_assets() {
	wp_register_style( 'sigw', SIGW_URL . 'css/signals.css', array(), '3.2' );
	wp_register_script( 'sigw', SIGW_URL . 'js/report.js', array( 'jquery' ), '3.2', true );
	wp_localize_script( 'sigw', 'sigw', array( 'url' => admin_url( 'admin-ajax.php' ), 'key' => wp_create_nonce( 'sigw_report' ) ) );
}
