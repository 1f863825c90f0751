<?php
defined( 'ABSPATH' ) || exit;

class BB_Admin_Settings {

	public static function init() {
		add_action( 'admin_init', array( __CLASS__, 'register' ) );
	}

	public static function register() {
		register_setting( 'bb_settings_group', 'bb_settings', array( 'type' => 'array', 'sanitize_callback' => array( __CLASS__, 'sanitize' ) ) );
		add_settings_section( 'bb_general', __( 'General', 'berth-booking' ), array( __CLASS__, 'section' ), 'bb-settings' );
		add_settings_field( 'bb_price', __( 'Price', 'berth-booking' ), array( __CLASS__, 'field_number' ), 'bb-settings', 'bb_general', array( 'key' => 'price', 'label_for' => 'bb_price' ) );
		add_settings_field( 'bb_season', __( 'Season', 'berth-booking' ), array( __CLASS__, 'field_season' ), 'bb-settings', 'bb_general' );
		add_settings_field( 'bb_notify', __( 'Notify', 'berth-booking' ), array( __CLASS__, 'field_text' ), 'bb-settings', 'bb_general', array( 'key' => 'notify', 'label_for' => 'bb_notify' ) );
	}

	public static function section() {
		echo '<p>' . esc_html__( 'What visitors pay, and who is told.', 'berth-booking' ) . '</p>';
	}

	public static function field_number( $args ) {
		$options = bb_options();
		printf( '<input type="number" id="bb_%1$s" name="bb_settings[%1$s]" value="%2$s">', esc_attr( $args['key'] ), esc_attr( $options[ $args['key'] ] ) );
	}

	public static function field_text( $args ) {
		$options = bb_options();
		printf( '<input class="regular-text" id="bb_%1$s" name="bb_settings[%1$s]" value="%2$s">', esc_attr( $args['key'] ), esc_attr( $options[ $args['key'] ] ) );
	}

	public static function field_season() {
		$options = bb_options();
		echo '<select name="bb_settings[season]">';
		foreach ( array( 'summer' => __( 'Summer', 'berth-booking' ), 'winter' => __( 'Winter', 'berth-booking' ) ) as $value => $label ) {
			printf( '<option value="%s" %s>%s</option>', esc_attr( $value ), selected( $options['season'], $value, false ), esc_html( $label ) );
		}
		echo '</select>';
	}

	public static function sanitize( $input ) {
		return array(
			'price'  => isset( $input['price'] ) ? (float) $input['price'] : 18,
			'season' => isset( $input['season'] ) && 'winter' === $input['season'] ? 'winter' : 'summer',
			'notify' => isset( $input['notify'] ) ? sanitize_email( $input['notify'] ) : '',
		);
	}

	public static function output() {
		?>
		<div class="wrap">
			<h1><?php echo esc_html( get_admin_page_title() ); ?></h1>
			<form method="post" action="options.php">
				<?php
				settings_fields( 'bb_settings_group' );
				do_settings_sections( 'bb-settings' );
				submit_button();
				?>
			</form>
		</div>
		<?php
	}
}

BB_Admin_Settings::init();
