<?php

defined( 'ABSPATH' ) || exit;

function pilotage_add_rules() {
	add_rewrite_rule( '^pilots/?$', 'index.php?pilotage_page=roster', 'top' );
	add_rewrite_rule( '^pilots/calls/?$', 'index.php?pilotage_page=calls', 'top' );
}
add_action( 'init', 'pilotage_add_rules' );

function pilotage_query_vars( $names ) {
	$names[] = 'pilotage_page';
	return $names;
}
add_filter( 'query_vars', 'pilotage_query_vars' );

function pilotage_template( $template ) {
	$known = array(
		'roster' => 'roster.php',
		'calls'  => 'calls.php',
	);
	$page  = get_query_var( 'pilotage_page' );
	return isset( $known[ $page ] ) ? dirname( __DIR__ ) . '/templates/' . $known[ $page ] : $template;
}
add_filter( 'template_include', 'pilotage_template' );
