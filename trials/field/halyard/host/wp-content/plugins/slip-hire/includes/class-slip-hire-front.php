<?php
class Slip_Hire_Front {
	public static function init() {
		add_shortcode( 'slip_hires', array( __CLASS__, 'shortcode' ) );
		add_action( 'wp_enqueue_scripts', array( __CLASS__, 'assets' ) );
		add_action( 'admin_post_slip_hire_book', array( __CLASS__, 'book' ) );
		add_action( 'admin_post_nopriv_slip_hire_book', array( __CLASS__, 'book' ) );
		add_action( 'wp_ajax_slip_hire_free', array( __CLASS__, 'free' ) );
		add_action( 'wp_ajax_nopriv_slip_hire_free', array( __CLASS__, 'free' ) );
		add_filter( 'body_class', array( __CLASS__, 'body_class' ) );
		add_filter( 'template_include', array( __CLASS__, 'template' ) );
	}

	public static function assets() {
		wp_register_style( 'slip-hire', SLIP_HIRE_URL . 'assets/slip-hire.css', array(), '2.3.1' );
		wp_enqueue_script( 'slip-hire', SLIP_HIRE_URL . 'assets/slip-hire.js', array( 'jquery' ), '2.3.1', true );
		wp_localize_script( 'slip-hire', 'slipHire', array( 'url' => admin_url( 'admin-ajax.php' ), 'nonce' => wp_create_nonce( 'slip_hire_free' ) ) );
	}

	public static function shortcode( $atts ) {
		$atts = shortcode_atts( array( 'slip' => 0 ), $atts, 'slip_hires' );
		wp_enqueue_style( 'slip-hire' );
		$hires = slip_hire_all( (int) $atts['slip'] );
		ob_start();
		include SLIP_HIRE_DIR . 'templates/hires.php';
		return ob_get_clean();
	}

	public static function book() {
		check_admin_referer( 'slip_hire_book', 'slip_hire_nonce' );
		slip_hire_add( absint( $_POST['slip'] ), sanitize_text_field( wp_unslash( $_POST['boat'] ) ), sanitize_text_field( wp_unslash( $_POST['starts'] ) ), 1 );
		wp_safe_redirect( home_url( '/slips/' ) );
		exit;
	}

	public static function free() {
		check_ajax_referer( 'slip_hire_free' );
		wp_send_json_success( array( 'free' => 0 === count( slip_hire_all( absint( $_REQUEST['slip'] ?? 0 ) ) ) ) );
	}

	public static function body_class( $classes ) {
		if ( is_post_type_archive( 'slip' ) ) {
			$classes[] = 'slip-hire';
		}
		return $classes;
	}

	public static function template( $template ) {
		if ( is_post_type_archive( 'slip' ) ) {
			return SLIP_HIRE_DIR . 'templates/archive-slip.php';
		}
		return $template;
	}
}
