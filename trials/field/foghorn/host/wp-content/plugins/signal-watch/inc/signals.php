<?php
defined( 'ABSPATH' ) or die;

add_action( 'init', 'sigw_register' );
function sigw_register() {
	register_post_type(
		'fog_signal',
		array(
			'label'       => __( 'Fog signals', 'signal-watch' ),
			'public'      => true,
			'has_archive' => 'fog-signals',
			'rewrite'     => array( 'slug' => 'fog-signal' ),
			'supports'    => array( 'title', 'editor' ),
		)
	);
}

add_filter( 'template_include', 'sigw_template', 20 );
function sigw_template( $file ) {
	if ( is_post_type_archive( 'fog_signal' ) ) {
		$file = SIGW_PATH . 'parts/list.php';
	} elseif ( is_singular( 'fog_signal' ) ) {
		$file = SIGW_PATH . 'parts/one.php';
	}
	return $file;
}

add_shortcode( 'fog_signals', 'sigw_list' );
function sigw_list( $given ) {
	$given = shortcode_atts( array( 'limit' => sigw_setting( 'limit' ) ), $given );
	$found = get_posts( array( 'post_type' => 'fog_signal', 'numberposts' => (int) $given['limit'] ) );
	$html  = '';
	foreach ( $found as $one ) {
		$html .= '<li>' . esc_html( get_the_title( $one ) ) . '</li>';
	}
	return $html ? "<ul>$html</ul>" : '';
}

function sigw_setting( $name ) {
	$kept = get_option( 'sigw_settings', array() );
	return isset( $kept[ $name ] ) ? $kept[ $name ] : 10;
}

add_filter( 'the_title', 'sigw_mark', 10, 2 );
function sigw_mark( $title, $id = 0 ) {
	if ( 'fog_signal' !== get_post_type( $id ) ) {
		return $title;
	}
	return $title . ' (!)';
}
