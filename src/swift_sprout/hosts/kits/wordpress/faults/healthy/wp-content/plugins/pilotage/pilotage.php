<?php
/**
 * Plugin Name: Pilotage
 * Description: Pilots, and when they are on duty.
 * Version: 1.2.0
 * Requires at least: 6.1
 * Requires PHP: 8.1
 * Requires Plugins: harbour-office
 * Author: Pilot station of Brindle Quay
 * Text Domain: pilotage
 * Domain Path: /languages
 */

defined( 'ABSPATH' ) || exit;

require_once __DIR__ . '/includes/class-pilotage-roster.php';
require_once __DIR__ . '/includes/class-pilotage-widget.php';
require_once __DIR__ . '/includes/pages.php';
require_once __DIR__ . '/includes/endpoints.php';
require_once __DIR__ . '/includes/administration.php';

/** The table of pilots, and who may see it. */
function pilotage_activate() {
	global $wpdb;
	require_once ABSPATH . 'wp-admin/includes/upgrade.php';
	dbDelta(
		"CREATE TABLE {$wpdb->prefix}pilotage_pilot (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  name varchar(80) NOT NULL,
  licence varchar(20) NOT NULL,
  PRIMARY KEY  (id)
) {$wpdb->get_charset_collate()};"
	);
	get_role( 'editor' )->add_cap( 'read_pilots' );
	get_role( 'administrator' )->add_cap( 'read_pilots' );
	pilotage_add_rules();
	flush_rewrite_rules( false );
}
register_activation_hook( __FILE__, 'pilotage_activate' );

/** The rules of this module go with it. */
function pilotage_deactivate() {
	delete_option( 'rewrite_rules' );
}
register_deactivation_hook( __FILE__, 'pilotage_deactivate' );

/** The texts in the language of the site. */
function pilotage_load_texts() {
	load_plugin_textdomain( 'pilotage', false, 'pilotage/languages' );
}
add_action( 'init', 'pilotage_load_texts' );

/** The block and the widget, which show the same. */
function pilotage_add_block() {
	register_block_type( __DIR__ . '/blocks/pilots-on-duty', array( 'render_callback' => array( 'Pilotage_Roster', 'draw' ) ) );
	add_shortcode( 'pilots_on_duty', array( 'Pilotage_Roster', 'draw' ) );
}
add_action( 'init', 'pilotage_add_block' );

function pilotage_add_widget() {
	register_widget( 'Pilotage_Widget' );
}
add_action( 'widgets_init', 'pilotage_add_widget' );

function pilotage_add_style() {
	wp_enqueue_style( 'pilotage', plugins_url( 'assets/pilotage.css', __FILE__ ), array(), '1.2.0' );
}
add_action( 'wp_enqueue_scripts', 'pilotage_add_style' );
