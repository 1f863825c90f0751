<?php
/** @var WP_Query $query */
if ( $query->have_posts() ) :
	while ( $query->have_posts() ) :
		$query->the_post();
		?>
		<p><?php the_title(); ?></p>
		<?php
	endwhile;
endif;
?>
<form method="post" action="<?php echo esc_url( admin_url( 'admin-post.php' ) ); ?>">
	<?php wp_nonce_field( 'quay_desk_ask' ); ?>
	<input type="hidden" name="action" value="quay_desk_ask">
	<textarea name="text"></textarea><button><?php echo esc_html( sprintf( /* translators: %s: name */ __( 'Ask %s', 'quay-desk' ), 'the desk' ) ); ?></button>
</form>
