<?php
/**
 * Plugin Name: Quay Desk
 * Description: Requests at the harbour desk.
 * Version: 0.9.0
 * Requires PHP: 8.0
 * Text Domain: quay-desk
 */

namespace BrindleQuay\QuayDesk;

\defined( 'ABSPATH' ) || exit;

spl_autoload_register(
	static function ( string $class ): void {
		$prefix = __NAMESPACE__ . '\\';
		if ( ! str_starts_with( $class, $prefix ) ) {
			return;
		}
		$file = __DIR__ . '/src/' . str_replace( '\\', '/', substr( $class, strlen( $prefix ) ) ) . '.php';
		if ( is_file( $file ) ) {
			require $file;
		}
	}
);

( new Plugin( __FILE__ ) )->run();
