<?php
/**
 * @var int       $berth
 * @var WP_Post[] $berths
 */
defined( 'ABSPATH' ) || exit;
?>
<?php foreach ( BB_Frontend::errors() as $error ) : ?>
	<p class="bb-error"><?php echo esc_html( $error ); ?></p>
<?php endforeach; ?>
<form method="post" class="bb-form">
	<?php wp_nonce_field( 'bb_book', 'bb_nonce' ); ?>
	<label><?php esc_html_e( 'Berth', 'berth-booking' ); ?>
		<select name="bb_booking[berth]">
			<?php foreach ( $berths as $one ) : ?>
				<option value="<?php echo esc_attr( $one->ID ); ?>" <?php selected( $one->ID, $berth ); ?>><?php echo esc_html( $one->post_title ); ?></option>
			<?php endforeach; ?>
		</select>
	</label>
	<label><?php esc_html_e( 'Boat', 'berth-booking' ); ?> <input name="bb_booking[boat]" required></label>
	<label><?php esc_html_e( 'Skipper', 'berth-booking' ); ?> <input name="bb_booking[skipper]"></label>
	<label><?php esc_html_e( 'E-mail', 'berth-booking' ); ?> <input type="email" name="bb_booking[email]" required></label>
	<label><?php esc_html_e( 'Length in metres', 'berth-booking' ); ?> <input type="number" step="0.1" name="bb_booking[length]" value="8"></label>
	<label><?php esc_html_e( 'Arrives', 'berth-booking' ); ?> <input type="date" name="bb_booking[arrives]" required></label>
	<label><?php esc_html_e( 'Nights', 'berth-booking' ); ?> <input type="number" name="bb_booking[nights]" value="1"></label>
	<p class="bb-quote"></p>
	<button><?php esc_html_e( 'Ask for it', 'berth-booking' ); ?></button>
</form>
