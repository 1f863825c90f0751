<?php
class Slip_Hire_Widget extends WP_Widget {
	public function __construct() {
		parent::__construct( 'slip_hire', __( 'Slip hires', 'slip-hire' ), array( 'description' => __( 'Next hires.', 'slip-hire' ) ) );
	}

	public function widget( $args, $instance ) {
		echo $args['before_widget'];
		echo '<p>' . esc_html( count( slip_hire_all() ) ) . '</p>';
		echo $args['after_widget'];
	}

	public function form( $instance ) {
		$title = $instance['title'] ?? '';
		echo '<input name="' . esc_attr( $this->get_field_name( 'title' ) ) . '" value="' . esc_attr( $title ) . '">';
	}

	public function update( $new, $old ) {
		return array( 'title' => sanitize_text_field( $new['title'] ) );
	}
}
