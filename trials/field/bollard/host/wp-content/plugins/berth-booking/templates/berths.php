<?php
/**
 * @var WP_Post[] $berths
 * @var string    $wrapper
 */
defined( 'ABSPATH' ) || exit;
?>
<ul class="bb-berths" <?php echo $wrapper; // phpcs:ignore ?>>
	<?php foreach ( $berths as $berth ) : ?>
		<?php bb_get_template( 'content-berth.php', array( 'berth' => $berth ) ); ?>
	<?php endforeach; ?>
</ul>
