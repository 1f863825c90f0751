<?php
namespace BrindleQuay\QuayDesk;

class Widget extends \WP_Widget {
	public function __construct() {
		parent::__construct( 'quay_desk', __( 'Desk', 'quay-desk' ) );
	}

	public function widget( $args, $instance ) {
		$title = apply_filters( 'widget_title', $instance['title'] ?? '' );
		echo $args['before_widget'] . ( $title ? $args['before_title'] . esc_html( $title ) . $args['after_title'] : '' ) . do_shortcode( '[desk_requests]' ) . $args['after_widget'];
	}

	public function update( $new_instance, $old_instance ) {
		$old_instance['title'] = sanitize_text_field( $new_instance['title'] ?? '' );
		return $old_instance;
	}
}
