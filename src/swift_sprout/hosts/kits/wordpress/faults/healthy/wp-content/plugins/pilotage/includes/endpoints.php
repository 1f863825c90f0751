<?php

defined( 'ABSPATH' ) || exit;

function pilotage_add_routes() {
	register_rest_route(
		'pilotage/v1',
		'/pilots',
		array(
			'methods'             => 'GET',
			'callback'            => 'pilotage_pilots',
			'permission_callback' => '__return_true',
		)
	);
	register_rest_route(
		'pilotage/v1',
		'/calls/(?P<id>[0-9]+)',
		array(
			'methods'             => 'POST',
			'callback'            => 'pilotage_call',
			'permission_callback' => 'pilotage_may_call',
		)
	);
}
add_action( 'rest_api_init', 'pilotage_add_routes' );

function pilotage_pilots() {
	return array( 'items' => Pilotage_Roster::all() );
}

function pilotage_call( $request ) {
	return array( 'called' => (int) $request['id'] );
}

function pilotage_may_call() {
	return current_user_can( 'read_pilots' );
}
