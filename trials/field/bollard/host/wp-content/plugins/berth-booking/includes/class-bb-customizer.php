<?php
defined( 'ABSPATH' ) || exit;

class BB_Customizer {

	public function __construct() {
		add_action( 'customize_register', array( $this, 'add_sections' ) );
		add_action( 'wp_head', array( $this, 'colours' ) );
	}

	public function add_sections( $wp_customize ) {
		$wp_customize->add_section( 'bb_looks', array( 'title' => __( 'Berths', 'berth-booking' ), 'priority' => 200 ) );
		$wp_customize->add_setting( 'bb_colour', array( 'default' => '#124e78', 'sanitize_callback' => 'sanitize_hex_color' ) );
		$wp_customize->add_control( new WP_Customize_Color_Control( $wp_customize, 'bb_colour', array( 'label' => __( 'Colour of free berths', 'berth-booking' ), 'section' => 'bb_looks' ) ) );
	}

	public function colours() {
		printf( '<style>.bb-berths .bb-free{color:%s}</style>' . "\n", esc_attr( get_theme_mod( 'bb_colour', '#124e78' ) ) );
	}
}

new BB_Customizer();
