<?php
defined( 'ABSPATH' ) || exit;

class BB_Frontend {

	private static $errors = array();

	public static function init() {
		add_action( 'wp_enqueue_scripts', array( __CLASS__, 'load_scripts' ) );
		add_action( 'wp_loaded', array( __CLASS__, 'take_booking' ), 20 );
		add_filter( 'the_content', array( __CLASS__, 'length_below' ) );
		add_filter( 'body_class', array( __CLASS__, 'body_class' ) );
		add_action( 'pre_get_posts', array( __CLASS__, 'order_berths' ) );
		add_filter( 'document_title_parts', array( __CLASS__, 'title' ) );
		add_action( 'wp_footer', array( __CLASS__, 'hotline' ) );
	}

	public static function load_scripts() {
		wp_register_style( 'bb-general', berth_booking()->plugin_url() . '/assets/css/berth-booking.css', array(), BB_VERSION );
		wp_register_script( 'bb-booking', berth_booking()->plugin_url() . '/assets/js/booking.js', array( 'jquery' ), BB_VERSION, true );
		wp_localize_script(
			'bb-booking',
			'bb_params',
			array(
				'ajax_url' => admin_url( 'admin-ajax.php' ),
				'security' => wp_create_nonce( 'bb-price' ),
			)
		);
		if ( is_singular( 'berth' ) || is_post_type_archive( 'berth' ) ) {
			wp_enqueue_style( 'bb-general' );
		}
	}

	public static function take_booking() {
		if ( ! isset( $_POST['bb_booking'] ) ) {
			return;
		}
		if ( ! isset( $_POST['bb_nonce'] ) || ! wp_verify_nonce( sanitize_key( $_POST['bb_nonce'] ), 'bb_book' ) ) {
			self::$errors[] = __( 'Please send the form again.', 'berth-booking' );
			return;
		}
		$data = wp_unslash( $_POST['bb_booking'] );
		if ( empty( $data['boat'] ) || empty( $data['email'] ) ) {
			self::$errors[] = __( 'A boat and an address are needed.', 'berth-booking' );
			return;
		}
		berth_booking()->bookings->insert(
			array(
				'berth_id' => absint( $data['berth'] ),
				'boat'     => sanitize_text_field( $data['boat'] ),
				'skipper'  => sanitize_text_field( $data['skipper'] ),
				'email'    => sanitize_email( $data['email'] ),
				'length_m' => (float) $data['length'],
				'arrives'  => sanitize_text_field( $data['arrives'] ),
				'nights'   => absint( $data['nights'] ),
			)
		);
		wp_safe_redirect( add_query_arg( 'booked', 1, wp_get_referer() ) );
		exit;
	}

	public static function errors() {
		return self::$errors;
	}

	public static function length_below( $content ) {
		if ( is_singular( 'berth' ) && in_the_loop() ) {
			$length = get_post_meta( get_the_ID(), '_bb_length', true );
			/* translators: %s: metres */
			$content .= '<p class="bb-length">' . sprintf( esc_html__( 'For boats up to %s m.', 'berth-booking' ), esc_html( $length ) ) . '</p>';
		}
		return $content;
	}

	public static function body_class( $classes ) {
		if ( is_singular( 'berth' ) ) {
			$classes[] = 'bb-page';
		}
		return $classes;
	}

	public static function order_berths( $query ) {
		if ( ! is_admin() && $query->is_main_query() && $query->is_post_type_archive( 'berth' ) ) {
			$query->set( 'orderby', 'title' );
			$query->set( 'order', 'ASC' );
			$query->set( 'posts_per_page', 30 );
		}
	}

	public static function title( $parts ) {
		if ( is_post_type_archive( 'berth' ) ) {
			$parts['title'] = __( 'Berths of Brindle Quay', 'berth-booking' );
		}
		return $parts;
	}

	public static function hotline() {
		echo '<p class="bb-hotline">' . esc_html__( 'Harbour office: channel 12', 'berth-booking' ) . '</p>';
	}
}

BB_Frontend::init();
