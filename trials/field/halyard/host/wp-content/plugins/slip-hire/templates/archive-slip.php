<?php get_header(); ?>
<main class="slips">
	<h1><?php post_type_archive_title(); ?></h1>
	<?php while ( have_posts() ) : the_post(); ?>
		<article><h2><a href="<?php the_permalink(); ?>"><?php the_title(); ?></a></h2><?php the_excerpt(); ?></article>
	<?php endwhile; ?>
</main>
<?php get_footer(); ?>
