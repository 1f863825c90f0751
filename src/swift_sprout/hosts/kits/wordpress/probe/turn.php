<?php
/** Switches a module on or off with the host's own functions, or settles it: this time for real. */

namespace SwiftSprout;

require __DIR__ . '/talk.php';

ob_start();
$_SERVER['HTTP_HOST']   ??= '127.0.0.1';
$_SERVER['REQUEST_URI'] ??= '/';
register_shutdown_function(
	static function (): void {
		$last = error_get_last();
		if ( $last && ( $last['type'] & ( E_ERROR | E_PARSE | E_CORE_ERROR | E_COMPILE_ERROR ) ) ) {
			answer( array( 'fatal' => array( $last['message'], $last['file'], $last['line'] ) ) );
		}
		answer( array( 'printed' => substr( wp_strip_all_tags( (string) ob_get_contents() ), 0, 2000 ) ) );
	}
);
set_exception_handler(
	static fn( \Throwable $thrown ) => answer( array( 'fatal' => array( $thrown->getMessage(), $thrown->getFile(), $thrown->getLine() ) ) )
);
$GLOBALS['wp_filter']['wp_fatal_error_handler_enabled'][10][] = array( 'accepted_args' => 1, 'function' => static fn() => false );
require question()['root'] . '/wp-load.php';

( static function (): void {
	$asked = question();
	require_once ABSPATH . 'wp-admin/includes/plugin.php';
	require_once ABSPATH . 'wp-admin/includes/upgrade.php';
	$file   = $asked['file'];
	$result = null;
	switch ( $asked['what'] ) {
		case 'on':
			wp_clean_plugins_cache( false );
			$result = activate_plugin( $file );
			break;
		case 'off':
			deactivate_plugins( $file );
			break;
		case 'settle':
			do_action( 'activate_' . $file, false );
			flush_rewrite_rules( false );
			break;
		case 'rules':
			flush_rewrite_rules( false );
			break;
		case 'samples':
			answer( array( 'loaded' => call_user_func( array( $asked['class'], 'load' ) ) ) );
			break;
	}
	$printed = is_wp_error( $result ) ? (string) $result->get_error_data() : '';
	answer(
		array(
			'done'  => ! is_wp_error( $result ),
			'error' => is_wp_error( $result ) ? array( $result->get_error_code(), wp_strip_all_tags( $result->get_error_message() ), $printed ) : array(),
			'on'    => is_plugin_active( $file ),
			'wrong' => $GLOBALS['wpdb']->last_error,
		)
	);
} )();
