<?php
/**
 * Plugin Name: Ferries
 * Description: Timetable of the quay ferry.
 * Version: 1.4.0
 * Requires at least: 6.1
 * Requires PHP: 8.1
 * Text Domain: ferries
 */

namespace BrindleQuay\Ferries;

defined( 'ABSPATH' ) || exit;

/** The page /ferries/. */
function add_rules(): void {
	add_rewrite_rule( '^ferries/?$', 'index.php?ferries=timetable', 'top' );
}

add_action( 'init', __NAMESPACE__ . '\add_rules' );

add_filter(
	'query_vars',
	static function ( array $names ): array {
		$names[] = 'ferries';
		return $names;
	}
);

add_filter(
	'template_include',
	static fn( string $template ): string => get_query_var( 'ferries' ) ? __DIR__ . '/timetable.php' : $template
);

register_activation_hook(
	__FILE__,
	static function (): void {
		add_rules();
		flush_rewrite_rules();
	}
);

register_deactivation_hook(
	__FILE__,
	static function (): void {
		delete_option( 'rewrite_rules' );
	}
);
