<?php get_header(); ?>
<h1><?php post_type_archive_title(); ?></h1>
<?php echo sigw_list( array() ); ?>
<?php get_footer();
