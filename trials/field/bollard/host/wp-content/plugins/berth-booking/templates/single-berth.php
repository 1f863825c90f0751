<?php
defined( 'ABSPATH' ) || exit;

get_header(); ?>
<main class="bb-single">
<?php
while ( have_posts() ) :
	the_post();
	?>
	<article>
		<h1><?php the_title(); ?></h1>
		<?php the_content(); ?>
		<?php if ( false !== get_query_var( 'prices', false ) ) : ?>
			<?php bb_get_template( 'prices.php', array( 'length' => (float) get_post_meta( get_the_ID(), '_bb_length', true ) ) ); ?>
		<?php endif; ?>
		<?php the_terms( get_the_ID(), 'berth_zone', '<p class="bb-zones">', ', ', '</p>' ); ?>
	</article>
<?php endwhile; ?>
</main>
<?php
get_footer();
