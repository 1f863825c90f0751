<?php
/**
 * Letter: asked.
 *
 * @var object $booking
 * @var float  $price
 */
defined( 'ABSPATH' ) || exit;
?>
<p><?php printf( esc_html__( 'Dear %s,', 'berth-booking' ), esc_html( $booking->skipper ) ); ?></p>
<p><?php printf( esc_html__( '%1$s from %2$s, %3$d nights, %4$s.', 'berth-booking' ), esc_html( $booking->boat ), esc_html( $booking->arrives ), absint( $booking->nights ), wp_kses_post( bb_price_html( $price ) ) ); ?></p>
