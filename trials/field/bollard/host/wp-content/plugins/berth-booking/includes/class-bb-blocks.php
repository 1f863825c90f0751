<?php
defined( 'ABSPATH' ) || exit;

class BB_Blocks {

	public static function init() {
		add_action( 'init', array( __CLASS__, 'register' ), 20 );
		add_filter( 'block_categories_all', array( __CLASS__, 'category' ) );
		add_action( 'init', array( __CLASS__, 'pattern' ), 21 );
	}

	public static function category( $categories ) {
		$categories[] = array( 'slug' => 'berth-booking', 'title' => __( 'Harbour', 'berth-booking' ) );
		return $categories;
	}

	public static function register() {
		wp_register_script(
			'bb-block-berths',
			berth_booking()->plugin_url() . '/assets/js/block-berths.js',
			array( 'wp-blocks', 'wp-element', 'wp-i18n', 'wp-server-side-render' ),
			BB_VERSION,
			true
		);
		wp_register_style( 'bb-blocks', berth_booking()->plugin_url() . '/assets/css/blocks.css', array(), BB_VERSION );
		register_block_type(
			'berth-booking/berths',
			array(
				'api_version'     => 2,
				'title'           => __( 'Berths', 'berth-booking' ),
				'category'        => 'berth-booking',
				'editor_script'   => 'bb-block-berths',
				'style'           => 'bb-blocks',
				'attributes'      => array(
					'zone'   => array( 'type' => 'string', 'default' => '' ),
					'number' => array( 'type' => 'number', 'default' => 5 ),
				),
				'render_callback' => array( __CLASS__, 'berths' ),
			)
		);
	}

	public static function berths( $attributes, $content ) {
		$args = array( 'post_type' => 'berth', 'numberposts' => (int) $attributes['number'] );
		if ( $attributes['zone'] ) {
			$args['tax_query'] = array( array( 'taxonomy' => 'berth_zone', 'field' => 'slug', 'terms' => $attributes['zone'] ) );
		}
		return bb_get_template_html( 'berths.php', array( 'berths' => get_posts( $args ), 'wrapper' => get_block_wrapper_attributes() ) );
	}

	public static function pattern() {
		register_block_pattern_category( 'harbour', array( 'label' => __( 'Harbour', 'berth-booking' ) ) );
		register_block_pattern(
			'berth-booking/notice',
			array(
				'title'      => __( 'Berths, with a heading', 'berth-booking' ),
				'categories' => array( 'harbour' ),
				'content'    => '<!-- wp:heading --><h2>Berths</h2><!-- /wp:heading --><!-- wp:berth-booking/berths {"number":3} /-->',
			)
		);
	}
}

BB_Blocks::init();
