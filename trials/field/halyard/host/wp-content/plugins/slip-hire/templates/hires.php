<div class="slip-hires">
	<ul>
	<?php foreach ( $hires as $hire ) : ?>
		<li><?php echo esc_html( $hire->boat ); ?> (<?php echo esc_html( mysql2date( 'j F', $hire->starts ) ); ?>)</li>
	<?php endforeach; ?>
	</ul>
	<form action="<?php echo esc_url( admin_url( 'admin-post.php' ) ); ?>" method="post">
		<input type="hidden" name="action" value="slip_hire_book">
		<?php wp_nonce_field( 'slip_hire_book', 'slip_hire_nonce' ); ?>
		<input name="boat"><input name="starts" type="date"><input name="slip" type="hidden" value="1">
		<button><?php esc_html_e( 'Book', 'slip-hire' ); ?></button>
	</form>
</div>
