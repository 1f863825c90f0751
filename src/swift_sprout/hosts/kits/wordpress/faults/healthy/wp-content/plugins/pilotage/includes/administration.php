<?php

defined( 'ABSPATH' ) || exit;

function pilotage_add_menu() {
	add_menu_page( __( 'Pilots', 'pilotage' ), __( 'Pilots', 'pilotage' ), 'read_pilots', 'pilotage', 'pilotage_screen' );
	add_submenu_page( 'pilotage', __( 'Calls', 'pilotage' ), __( 'Calls', 'pilotage' ), 'read_pilots', 'pilotage-calls', 'pilotage_screen' );
}
add_action( 'admin_menu', 'pilotage_add_menu' );

function pilotage_screen() {
	echo '<div class="wrap"><h1>' . esc_html__( 'Pilots', 'pilotage' ) . '</h1>' . Pilotage_Roster::draw() . '</div>';
}

function pilotage_add_settings() {
	register_setting( 'pilotage', 'pilotage_channel' );
	add_settings_section( 'all', '', '__return_empty_string', 'pilotage' );
}
add_action( 'admin_init', 'pilotage_add_settings' );

function pilotage_save_call() {
	check_admin_referer( 'pilotage_call' );
	update_option( 'pilotage_last_call', sanitize_text_field( wp_unslash( $_POST['vessel'] ?? '' ) ) );
	wp_safe_redirect( admin_url( 'admin.php?page=pilotage' ) );
	exit;
}
add_action( 'admin_post_pilotage_call', 'pilotage_save_call' );
