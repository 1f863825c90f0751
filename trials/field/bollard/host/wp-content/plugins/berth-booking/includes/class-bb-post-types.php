<?php
defined( 'ABSPATH' ) || exit;

class BB_Post_Types {

	public static function init() {
		add_action( 'init', array( __CLASS__, 'register_taxonomies' ), 5 );
		add_action( 'init', array( __CLASS__, 'register_post_types' ), 5 );
		add_action( 'init', array( __CLASS__, 'register_post_status' ), 9 );
		add_action( 'init', array( __CLASS__, 'register_meta' ), 10 );
		add_action( 'init', array( __CLASS__, 'add_endpoint' ) );
		add_filter( 'query_vars', array( __CLASS__, 'query_vars' ) );
		add_action( 'init', array( __CLASS__, 'add_feed' ) );
	}

	public static function register_taxonomies() {
		if ( taxonomy_exists( 'berth_zone' ) ) {
			return;
		}
		register_taxonomy(
			'berth_zone',
			array( 'berth' ),
			array(
				'hierarchical'      => true,
				'label'             => __( 'Zones', 'berth-booking' ),
				'show_admin_column' => true,
				'show_in_rest'      => true,
				'query_var'         => true,
				'rewrite'           => array( 'slug' => 'berth-zone' ),
			)
		);
	}

	public static function register_post_types() {
		if ( post_type_exists( 'berth' ) ) {
			return;
		}
		register_post_type(
			'berth',
			apply_filters(
				'bb_register_post_type_berth',
				array(
					'labels'       => array(
						'name'          => __( 'Berths', 'berth-booking' ),
						'singular_name' => __( 'Berth', 'berth-booking' ),
						'add_new_item'  => __( 'Add a berth', 'berth-booking' ),
					),
					'public'       => true,
					'has_archive'  => 'berths',
					'menu_icon'    => 'dashicons-sos',
					'show_in_menu' => true,
					'show_in_rest' => true,
					'supports'     => array( 'title', 'editor', 'thumbnail', 'custom-fields' ),
					'taxonomies'   => array( 'berth_zone' ),
					'rewrite'      => array( 'slug' => 'berth', 'with_front' => false ),
				)
			)
		);
	}

	public static function register_post_status() {
		register_post_status(
			'bb_closed',
			array(
				'label'                     => _x( 'Closed', 'berth', 'berth-booking' ),
				'public'                    => true,
				'show_in_admin_all_list'    => true,
				'show_in_admin_status_list' => true,
				/* translators: %s: number of berths */
				'label_count'               => _n_noop( 'Closed <span class="count">(%s)</span>', 'Closed <span class="count">(%s)</span>', 'berth-booking' ),
			)
		);
	}

	public static function register_meta() {
		register_post_meta(
			'berth',
			'_bb_length',
			array(
				'type'              => 'number',
				'single'            => true,
				'show_in_rest'      => true,
				'sanitize_callback' => array( __CLASS__, 'sanitize_length' ),
				'auth_callback'     => array( __CLASS__, 'may_edit' ),
			)
		);
		register_term_meta(
			'berth_zone',
			'bb_depth',
			array(
				'type'              => 'number',
				'single'            => true,
				'show_in_rest'      => true,
				'sanitize_callback' => array( __CLASS__, 'sanitize_length' ),
			)
		);
	}

	public static function sanitize_length( $value ) {
		return max( 0, min( 60, (float) $value ) );
	}

	public static function may_edit() {
		return current_user_can( 'edit_posts' );
	}

	public static function add_endpoint() {
		add_rewrite_endpoint( 'prices', EP_PERMALINK );
	}

	public static function query_vars( $vars ) {
		$vars[] = 'bb_free_on';
		return $vars;
	}

	public static function add_feed() {
		add_feed( 'berths', array( __CLASS__, 'feed' ) );
	}

	public static function feed() {
		header( 'Content-Type: text/plain; charset=utf-8' );
		$berths = get_posts( array( 'post_type' => 'berth', 'numberposts' => 20 ) );
		echo esc_html__( 'Berths of the harbour', 'berth-booking' ), "\n";
		foreach ( $berths as $berth ) {
			echo esc_html( $berth->post_title ), "\t", esc_html( get_post_meta( $berth->ID, '_bb_length', true ) ), "\n";
		}
	}
}

BB_Post_Types::init();
