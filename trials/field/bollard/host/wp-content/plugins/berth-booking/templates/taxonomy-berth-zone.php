<?php
defined( 'ABSPATH' ) || exit;

$zone = get_queried_object();
get_header();
?>
<main>
	<h1><?php single_term_title(); ?></h1>
	<p><?php printf( esc_html__( 'Depth: %s m', 'berth-booking' ), esc_html( get_term_meta( $zone->term_id, 'bb_depth', true ) ) ); ?></p>
	<?php bb_get_template( 'berths.php', array( 'berths' => $GLOBALS['wp_query']->posts, 'wrapper' => '' ) ); ?>
</main>
<?php
get_footer();
