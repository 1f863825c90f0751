<?php

defined( 'ABSPATH' ) || exit;

/** The pilots on duty, for an area of the theme. */
class Pilotage_Widget extends WP_Widget {
	public function __construct() {
		parent::__construct( 'pilotage_duty', __( 'Pilots on duty', 'pilotage' ) );
	}

	public function widget( $args, $instance ) {
		echo $args['before_widget'], Pilotage_Roster::draw(), $args['after_widget'];
	}
}
