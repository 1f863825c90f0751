<?php
/**
 * Plugin Name: Harbour office
 * Description: Notices of the harbour office.
 * Version: 2.1.0
 * Requires at least: 6.1
 * Requires PHP: 8.1
 * Text Domain: harbour-office
 */

namespace BrindleQuay\HarbourOffice;

defined( 'ABSPATH' ) || exit;

/** The office's opening hours, wherever [harbour_office_hours] stands. */
function hours(): string {
	return '<p class="harbour-office-hours">' . esc_html__( 'The office is open from 7 to 17 h.', 'harbour-office' ) . '</p>';
}

add_action(
	'init',
	static function (): void {
		add_shortcode( 'harbour_office_hours', __NAMESPACE__ . '\hours' );
	}
);
