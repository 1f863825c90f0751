<?php
defined( 'ABSPATH' ) or die;

add_action( 'admin_menu', 'sigw_menu' );
function sigw_menu() {
	add_menu_page( __( 'Reports', 'signal-watch' ), __( 'Reports', 'signal-watch' ), 'mind_signals', 'sigw-reports', 'sigw_reports_screen' );
	add_submenu_page( 'sigw-reports', __( 'Settings', 'signal-watch' ), __( 'Settings', 'signal-watch' ), 'manage_options', 'sigw-settings', 'sigw_settings_screen' );
}

add_action( 'admin_init', 'sigw_settings' );
function sigw_settings() {
	register_setting( 'sigw', 'sigw_settings', 'sigw_clean' );
	add_settings_section( 'sigw_main', __( 'Lists', 'signal-watch' ), '__return_null', 'sigw-settings' );
	add_settings_field( 'sigw_limit', __( 'How many', 'signal-watch' ), 'sigw_limit_field', 'sigw-settings', 'sigw_main' );
}

function sigw_clean( $given ) {
	return array( 'limit' => absint( $given['limit'] ) );
}

function sigw_limit_field() {
	echo '<input name="sigw_settings[limit]" value="' . esc_attr( sigw_setting( 'limit' ) ) . '">';
}

function sigw_settings_screen() {
	echo '<form method="post" action="options.php">';
	settings_fields( 'sigw' );
	do_settings_sections( 'sigw-settings' );
	submit_button();
	echo '</form>';
}

function sigw_reports_screen() {
	echo '<form method="post" action="' . esc_url( admin_url( 'admin-post.php' ) ) . '"><input type="hidden" name="action" value="sigw_clear">';
	wp_nonce_field( 'sigw_clear' );
	submit_button( __( 'Clear', 'signal-watch' ) );
	echo '</form><ul>';
	foreach ( sigw_reports() as $one ) {
		echo '<li>' . esc_html( $one->who ) . '</li>';
	}
	echo '</ul>';
}

add_action( 'admin_post_sigw_clear', 'sigw_clear' );
function sigw_clear() {
	check_admin_referer( 'sigw_clear' );
	sigw_tidy_reports();
	wp_safe_redirect( admin_url( 'admin.php?page=sigw-reports' ) );
	exit;
}

add_action( 'add_meta_boxes', 'sigw_boxes' );
function sigw_boxes() {
	add_meta_box( 'sigw-pitch', __( 'Pitch', 'signal-watch' ), 'sigw_pitch_box', 'fog_signal' );
}

function sigw_pitch_box( $post ) {
	wp_nonce_field( 'sigw_pitch_' . $post->ID, 'sigw_pitch_key' );
	echo '<input name="sigw_pitch" value="' . esc_attr( get_post_meta( $post->ID, 'sigw_pitch', true ) ) . '">';
}

add_action( 'save_post_fog_signal', 'sigw_save', 10, 2 );
function sigw_save( $id, $post ) {
	if ( isset( $_POST['sigw_pitch_key'] ) && wp_verify_nonce( $_POST['sigw_pitch_key'], 'sigw_pitch_' . $post->ID ) ) {
		update_post_meta( $id, 'sigw_pitch', sanitize_text_field( wp_unslash( $_POST['sigw_pitch'] ) ) );
	}
}
