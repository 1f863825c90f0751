<?php
class Slip_Hire_Types {
	public static function init() {
		add_action( 'init', array( __CLASS__, 'register' ) );
		add_action( 'init', array( __CLASS__, 'blocks' ) );
		add_filter( 'manage_slip_posts_columns', array( __CLASS__, 'columns' ) );
		add_action( 'manage_slip_posts_custom_column', array( __CLASS__, 'column' ), 10, 2 );
		add_filter( 'the_content', array( __CLASS__, 'content' ) );
	}

	public static function register() {
		register_post_type( 'slip', array(
			'labels'       => array( 'name' => __( 'Slips', 'slip-hire' ), 'singular_name' => __( 'Slip', 'slip-hire' ) ),
			'public'       => true,
			'has_archive'  => 'slips',
			'rewrite'      => array( 'slug' => 'slips' ),
			'supports'     => array( 'title', 'editor', 'thumbnail' ),
			'show_in_rest' => true,
		) );
		register_taxonomy( 'slip_size', 'slip', array(
			'labels'       => array( 'name' => __( 'Sizes', 'slip-hire' ) ),
			'hierarchical' => true,
			'rewrite'      => array( 'slug' => 'slip-size' ),
			'show_in_rest' => true,
		) );
		register_post_meta( 'slip', 'slip_length', array( 'type' => 'number', 'single' => true, 'show_in_rest' => true ) );
	}

	public static function blocks() {
		register_block_type( SLIP_HIRE_DIR . 'blocks/slips' );
	}

	public static function columns( $columns ) {
		$columns['slip_length'] = __( 'Length', 'slip-hire' );
		return $columns;
	}

	public static function column( $column, $post_id ) {
		if ( 'slip_length' === $column ) {
			echo esc_html( get_post_meta( $post_id, 'slip_length', true ) );
		}
	}

	public static function content( $content ) {
		if ( is_singular( 'slip' ) && in_the_loop() ) {
			$content .= '<p>' . esc_html( sprintf( __( '%d hires', 'slip-hire' ), count( slip_hire_all( get_the_ID() ) ) ) ) . '</p>';
		}
		return $content;
	}
}
