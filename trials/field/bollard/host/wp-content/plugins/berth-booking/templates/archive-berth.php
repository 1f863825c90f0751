<?php
defined( 'ABSPATH' ) || exit;

get_header();
?>
<main class="bb-archive">
	<h1><?php post_type_archive_title(); ?></h1>
	<?php if ( have_posts() ) : ?>
		<ul class="bb-berths">
		<?php
		while ( have_posts() ) :
			the_post();
			bb_get_template( 'content-berth.php', array( 'berth' => get_post() ) );
		endwhile;
		?>
		</ul>
		<?php the_posts_pagination(); ?>
	<?php else : ?>
		<p><?php esc_html_e( 'No berth is for hire.', 'berth-booking' ); ?></p>
	<?php endif; ?>
</main>
<?php
get_footer();
