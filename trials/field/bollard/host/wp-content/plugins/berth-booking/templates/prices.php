<?php
/** @var float $length */
defined( 'ABSPATH' ) || exit;
?>
<table class="bb-prices">
	<?php foreach ( array( 1, 3, 7 ) as $nights ) : ?>
		<tr><th><?php echo absint( $nights ); ?></th><td><?php echo wp_kses_post( bb_price_html( bb_price( $nights, $length ) ) ); ?></td></tr>
	<?php endforeach; ?>
</table>
