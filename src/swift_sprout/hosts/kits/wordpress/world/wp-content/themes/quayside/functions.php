<?php
/** What the theme offers: one menu, and two areas for widgets. */

add_action(
	'after_setup_theme',
	static function (): void {
		add_theme_support( 'title-tag' );
		add_theme_support( 'widgets' );
		register_nav_menus( array( 'primary' => __( 'Head of the page', 'quayside' ) ) );
	}
);

add_action(
	'widgets_init',
	static function (): void {
		foreach ( array( 'beside' => 'Beside the page', 'below' => 'Below the page' ) as $id => $name ) {
			register_sidebar(
				array(
					'id'            => $id,
					'name'          => $name,
					'before_widget' => '<section id="%1$s" class="widget %2$s">',
					'after_widget'  => '</section>',
					'before_title'  => '<h2>',
					'after_title'   => '</h2>',
				)
			);
		}
	}
);

add_action(
	'wp_enqueue_scripts',
	static function (): void {
		wp_enqueue_style( 'quayside', get_stylesheet_uri(), array(), '1.0' );
	}
);
