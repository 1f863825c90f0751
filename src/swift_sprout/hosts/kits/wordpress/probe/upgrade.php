<?php
/** Installs an archive with the host's own upgrader, which asks nobody and shows nothing. */

namespace SwiftSprout;

require __DIR__ . '/talk.php';

ob_start();
$_SERVER['HTTP_HOST'] ??= '127.0.0.1';
defined( 'FS_METHOD' ) || define( 'FS_METHOD', 'direct' );
require question()['root'] . '/wp-load.php';

( static function (): void {
	require_once ABSPATH . 'wp-admin/includes/admin.php';
	require_once ABSPATH . 'wp-admin/includes/class-wp-upgrader.php';
	$skin     = new \Automatic_Upgrader_Skin();
	$upgrader = new \Plugin_Upgrader( $skin );
	$result   = $upgrader->install( question()['archive'] );
	$error    = is_wp_error( $result ) ? $result : ( is_wp_error( $skin->result ) ? $skin->result : null );
	answer(
		array(
			'main'  => true === $result ? (string) $upgrader->plugin_info() : '',
			'error' => $error ? wp_strip_all_tags( $error->get_error_message() . ' ' . ( is_scalar( $error->get_error_data() ) ? $error->get_error_data() : '' ) ) : '',
			'said'  => array_map( 'wp_strip_all_tags', $skin->get_upgrade_messages() ),
		)
	);
} )();
