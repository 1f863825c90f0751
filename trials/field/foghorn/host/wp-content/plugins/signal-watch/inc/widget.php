<?php
defined( 'ABSPATH' ) or die;

class Sigw_Widget extends WP_Widget {
	function __construct() {
		parent::__construct( 'sigw', __( 'Fog signals', 'signal-watch' ) );
	}
	function widget( $args, $instance ) {
		echo $args['before_widget'] . sigw_list( array() ) . $args['after_widget'];
	}
}

add_action( 'widgets_init', function () { register_widget( 'Sigw_Widget' ); } );
