<?php

namespace Brindle\KeepersLog;

use WP_Error;
use WP_REST_Request;

class Endpoints {

	public function __construct( private Entries $entries ) {}

	public function register(): void {
		register_rest_route(
			'keepers-log/v1',
			'/entries',
			array(
				array(
					'methods'             => 'GET',
					'callback'            => array( $this, 'all' ),
					'permission_callback' => '__return_true',
				),
				array(
					'methods'             => 'POST',
					'callback'            => array( $this, 'add' ),
					'permission_callback' => array( $this, 'may_add' ),
					'args'                => array( 'words' => array( 'type' => 'string', 'required' => true ) ),
				),
			)
		);
	}

	public function all(): array {
		return array_map( fn( object $one ): string => $one->words, $this->entries->all() );
	}

	public function add( WP_REST_Request $request ): array {
		return array( 'id' => $this->entries->write( $request['words'] ) );
	}

	public function may_add(): bool|WP_Error {
		return current_user_can( Log::READ ) ? true : new WP_Error( 'keepers_only', 'Keepers only.', array( 'status' => 403 ) );
	}
}
