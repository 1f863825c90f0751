<?php
defined( 'ABSPATH' ) || exit;

class BB_Template_Loader {

	public static function init() {
		add_filter( 'template_include', array( __CLASS__, 'template_loader' ) );
	}

	public static function template_loader( $template ) {
		$default = self::get_default_file();
		if ( $default ) {
			return bb_locate_template( $default );
		}
		return $template;
	}

	private static function get_default_file() {
		if ( is_singular( 'berth' ) ) {
			return 'single-berth.php';
		}
		if ( is_tax( 'berth_zone' ) ) {
			return 'taxonomy-berth-zone.php';
		}
		if ( is_post_type_archive( 'berth' ) ) {
			return 'archive-berth.php';
		}
		return '';
	}
}

BB_Template_Loader::init();
