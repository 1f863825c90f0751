<?php
class Slip_Hire_Rest {
	const SPACE = 'slip-hire/v1';

	public static function init() {
		add_action( 'rest_api_init', array( __CLASS__, 'routes' ) );
	}

	public static function routes() {
		register_rest_route( self::SPACE, '/hires', array(
			array(
				'methods'             => WP_REST_Server::READABLE,
				'callback'            => array( __CLASS__, 'get_hires' ),
				'permission_callback' => '__return_true',
				'args'                => array( 'slip' => array( 'type' => 'integer', 'default' => 0, 'sanitize_callback' => 'absint' ) ),
			),
			array(
				'methods'             => WP_REST_Server::CREATABLE,
				'callback'            => array( __CLASS__, 'add_hire' ),
				'permission_callback' => array( __CLASS__, 'may' ),
			),
		) );
		register_rest_route( self::SPACE, '/hires/(?P<id>\d+)/price', array(
			'methods'             => 'GET',
			'callback'            => array( __CLASS__, 'price' ),
			'permission_callback' => '__return_true',
		) );
	}

	public static function may() {
		return current_user_can( 'manage_slips' );
	}

	public static function get_hires( WP_REST_Request $request ) {
		return rest_ensure_response( slip_hire_all( $request['slip'] ) );
	}

	public static function add_hire( $request ) {
		$id = slip_hire_add( (int) $request['slip'], sanitize_text_field( $request['boat'] ), $request['starts'], (int) $request['days'] );
		return new WP_REST_Response( array( 'id' => $id ), 201 );
	}

	public static function price( $request ) {
		return array( 'price' => slip_hire_price( 2 ) );
	}
}
