<?php
defined( 'ABSPATH' ) || exit;

class BB_REST_Controller extends WP_REST_Controller {

	protected $namespace = 'berth-booking/v1';
	protected $rest_base = 'bookings';

	public function register_routes() {
		register_rest_route(
			$this->namespace,
			'/' . $this->rest_base,
			array(
				array(
					'methods'             => WP_REST_Server::READABLE,
					'callback'            => array( $this, 'get_items' ),
					'permission_callback' => array( $this, 'get_items_permissions_check' ),
					'args'                => $this->get_collection_params(),
				),
				array(
					'methods'             => WP_REST_Server::CREATABLE,
					'callback'            => array( $this, 'create_item' ),
					'permission_callback' => '__return_true',
					'args'                => $this->get_endpoint_args_for_item_schema( WP_REST_Server::CREATABLE ),
				),
				'schema' => array( $this, 'get_public_item_schema' ),
			)
		);
		register_rest_route(
			$this->namespace,
			'/' . $this->rest_base . '/(?P<id>[\d]+)',
			array(
				array(
					'methods'             => WP_REST_Server::READABLE,
					'callback'            => array( $this, 'get_item' ),
					'permission_callback' => array( $this, 'get_item_permissions_check' ),
				),
				array(
					'methods'             => WP_REST_Server::EDITABLE,
					'callback'            => array( $this, 'update_item' ),
					'permission_callback' => array( $this, 'get_items_permissions_check' ),
					'args'                => array(
						'status' => array(
							'type' => 'string',
							'enum' => array( 'asked', 'confirmed', 'left' ),
						),
					),
				),
			)
		);
		register_rest_route(
			$this->namespace,
			'/free',
			array(
				'methods'             => 'GET',
				'callback'            => array( $this, 'free' ),
				'permission_callback' => '__return_true',
				'args'                => array(
					'on' => array(
						'validate_callback' => array( $this, 'is_date' ),
					),
				),
			)
		);
	}

	public function get_items_permissions_check( $request ) {
		if ( ! current_user_can( 'manage_berths' ) ) {
			return new WP_Error( 'bb_forbidden', __( 'Only the harbour office reads bookings.', 'berth-booking' ), array( 'status' => rest_authorization_required_code() ) );
		}
		return true;
	}

	public function get_item_permissions_check( $request ) {
		return $this->get_items_permissions_check( $request );
	}

	public function get_items( $request ) {
		$rows = berth_booking()->bookings->query(
			array(
				'status' => $request['status'],
				'search' => $request['search'],
				'number' => $request['per_page'],
				'offset' => ( $request['page'] - 1 ) * $request['per_page'],
			)
		);
		$data = array();
		foreach ( $rows as $row ) {
			$data[] = $this->prepare_response_for_collection( $this->prepare_item_for_response( $row, $request ) );
		}
		$response = rest_ensure_response( $data );
		$response->header( 'X-WP-Total', berth_booking()->bookings->count( $request['status'] ) );
		return $response;
	}

	public function get_item( $request ) {
		$row = berth_booking()->bookings->find( $request['id'] );
		if ( ! $row ) {
			return new WP_Error( 'bb_unknown', __( 'No such booking.', 'berth-booking' ), array( 'status' => 404 ) );
		}
		return $this->prepare_item_for_response( $row, $request );
	}

	public function create_item( $request ) {
		$id = berth_booking()->bookings->insert(
			array(
				'berth_id' => $request['berth'],
				'boat'     => $request['boat'],
				'skipper'  => $request['skipper'],
				'email'    => $request['email'],
				'length_m' => $request['length'],
				'arrives'  => $request['arrives'],
				'nights'   => $request['nights'],
			)
		);
		if ( is_wp_error( $id ) ) {
			return $id;
		}
		$response = $this->prepare_item_for_response( berth_booking()->bookings->find( $id ), $request );
		$response->set_status( 201 );
		return $response;
	}

	public function update_item( $request ) {
		berth_booking()->bookings->set_status( (int) $request['id'], $request['status'] );
		return $this->get_item( $request );
	}

	public function free( $request ) {
		$free = get_transient( 'bb_free_count' );
		if ( false === $free ) {
			$free = wp_count_posts( 'berth' )->publish - berth_booking()->bookings->count( 'confirmed' );
			set_transient( 'bb_free_count', $free, HOUR_IN_SECONDS );
		}
		return array( 'free' => max( 0, (int) $free ) );
	}

	public function is_date( $value ) {
		return (bool) preg_match( '/^\d{4}-\d{2}-\d{2}$/', $value );
	}

	public function prepare_item_for_response( $item, $request ) {
		$data = array(
			'id'      => (int) $item->booking_id,
			'boat'    => $item->boat,
			'skipper' => $item->skipper,
			'arrives' => $item->arrives,
			'nights'  => (int) $item->nights,
			'status'  => $item->status,
			'price'   => bb_price( $item->nights, $item->length_m ),
		);
		$response = rest_ensure_response( $data );
		$response->add_link( 'self', rest_url( $this->namespace . '/' . $this->rest_base . '/' . $item->booking_id ) );
		return $response;
	}

	public function get_item_schema() {
		if ( $this->schema ) {
			return $this->add_additional_fields_schema( $this->schema );
		}
		$this->schema = array(
			'$schema'    => 'http://json-schema.org/draft-04/schema#',
			'title'      => 'booking',
			'type'       => 'object',
			'properties' => array(
				'berth'   => array( 'type' => 'integer', 'required' => true ),
				'boat'    => array( 'type' => 'string', 'required' => true ),
				'skipper' => array( 'type' => 'string', 'default' => '' ),
				'email'   => array( 'type' => 'string', 'format' => 'email', 'required' => true ),
				'length'  => array( 'type' => 'number', 'default' => 8 ),
				'arrives' => array( 'type' => 'string', 'required' => true ),
				'nights'  => array( 'type' => 'integer', 'minimum' => 1, 'default' => 1 ),
			),
		);
		return $this->add_additional_fields_schema( $this->schema );
	}

	public function get_collection_params() {
		$params           = parent::get_collection_params();
		$params['status'] = array(
			'type'    => 'string',
			'enum'    => array_merge( array( '' ), array_keys( bb_statuses() ) ),
			'default' => '',
		);
		return $params;
	}
}
