<?php
defined( 'ABSPATH' ) || exit;

class BB_Widget_Next extends WP_Widget {

	public function __construct() {
		parent::__construct( 'bb_next', __( 'Next arrivals', 'berth-booking' ), array( 'classname' => 'bb-next', 'description' => __( 'Boats that arrive next.', 'berth-booking' ) ) );
	}

	public function widget( $args, $instance ) {
		$title  = apply_filters( 'widget_title', empty( $instance['title'] ) ? __( 'Next arrivals', 'berth-booking' ) : $instance['title'], $instance, $this->id_base );
		$number = empty( $instance['number'] ) ? 3 : absint( $instance['number'] );
		echo $args['before_widget'];
		echo $args['before_title'] . esc_html( $title ) . $args['after_title'];
		echo '<ul>';
		foreach ( berth_booking()->bookings->next( $number ) as $booking ) {
			printf( '<li>%s, %s</li>', esc_html( $booking->boat ), esc_html( mysql2date( get_option( 'date_format' ), $booking->arrives ) ) );
		}
		echo '</ul>';
		echo $args['after_widget'];
	}

	public function form( $instance ) {
		$instance = wp_parse_args( (array) $instance, array( 'title' => '', 'number' => 3 ) );
		printf( '<p><label for="%1$s">%2$s</label><input class="widefat" id="%1$s" name="%3$s" value="%4$s"></p>', esc_attr( $this->get_field_id( 'title' ) ), esc_html__( 'Title', 'berth-booking' ), esc_attr( $this->get_field_name( 'title' ) ), esc_attr( $instance['title'] ) );
		printf( '<p><label for="%1$s">%2$s</label><input type="number" id="%1$s" name="%3$s" value="%4$d"></p>', esc_attr( $this->get_field_id( 'number' ) ), esc_html__( 'Number', 'berth-booking' ), esc_attr( $this->get_field_name( 'number' ) ), absint( $instance['number'] ) );
	}

	public function update( $new_instance, $old_instance ) {
		return array(
			'title'  => sanitize_text_field( $new_instance['title'] ),
			'number' => absint( $new_instance['number'] ),
		);
	}
}
