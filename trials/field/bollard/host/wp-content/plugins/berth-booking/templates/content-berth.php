<?php
/** @var WP_Post $berth */
defined( 'ABSPATH' ) || exit;
?>
<li class="bb-free"><a href="<?php echo esc_url( get_permalink( $berth ) ); ?>"><?php echo esc_html( get_the_title( $berth ) ); ?></a></li>
