<?php
/** Installs the host into its empty database: the site, its theme, its modules. */

namespace SwiftSprout;

require __DIR__ . '/talk.php';

( static function (): void {
	$asked = question();
	define( 'WP_INSTALLING', true );
	$_SERVER['HTTP_HOST'] = '127.0.0.1';
	require $asked['root'] . '/wp-load.php';
	require_once ABSPATH . 'wp-admin/includes/upgrade.php';
	require_once ABSPATH . 'wp-admin/includes/plugin.php';
	add_filter( 'pre_wp_mail', '__return_false' );
	wp_install( $asked['title'], 'harbour', 'office@example.org', false, '', $asked['password'] );
	update_option( 'permalink_structure', '/%postname%/' );
	switch_theme( $asked['theme'] );
	wp_update_post( array( 'ID' => 1, 'post_title' => $asked['title'], 'post_content' => $asked['welcome'] ) );
	foreach ( get_comments( array( 'fields' => 'ids' ) ) as $comment ) {
		wp_delete_comment( $comment, true );
	}
	foreach ( get_posts( array( 'post_type' => 'page', 'post_status' => 'any', 'numberposts' => -1 ) ) as $page ) {
		wp_delete_post( $page->ID, true );
	}
	answer( array( 'installed' => true ) );
} )();
