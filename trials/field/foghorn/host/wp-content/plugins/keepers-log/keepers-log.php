<?php
/**
 * Plugin Name: Keepers log
 * Description: What the lighthouse keepers write down.
 * Version: 1.4.0
 * Requires at least: 6.0
 * Requires PHP: 8.0
 * Text Domain: keepers-log
 */

namespace Brindle\KeepersLog;

if ( ! function_exists( 'add_action' ) ) {
	exit;
}

const MAIN = __FILE__;

spl_autoload_register(
	function ( $name ) {
		$files = array(
			Log::class      => 'lib/log.php',
			Entries::class  => 'lib/entries.php',
			Endpoints::class => 'lib/endpoints.php',
			Desk::class     => 'lib/desk.php',
		);
		if ( isset( $files[ $name ] ) ) {
			require __DIR__ . '/' . $files[ $name ];
		}
	}
);

register_activation_hook( __FILE__, array( Entries::class, 'install' ) );

add_action(
	'plugins_loaded',
	function () {
		Log::begin( new Entries( $GLOBALS['wpdb'] ) );
	}
);
