<ul><?php foreach ( get_posts( array( 'post_type' => 'slip', 'numberposts' => $attributes['count'] ) ) as $slip ) : ?>
	<li><?php echo esc_html( get_the_title( $slip ) ); ?></li>
<?php endforeach; ?></ul>
