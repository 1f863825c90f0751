<?php
/** What modules give to the host to be called later: whether it can be called, and what the host misses in its answers. */

namespace SwiftSprout;

final class Given {
	/** What an answer must hold, by what it is given for (the host's reference, 6.1). */
	private const HOLDS = array(
		'exporter' => array( 'data', 'done' ),
		'eraser'   => array( 'items_removed', 'items_retained', 'messages', 'done' ),
		'health'   => array( 'label', 'status', 'badge', 'description', 'test' ),
	);

	private static array $found = array();

	/** What cannot be called of all that a page of the site is given. */
	public static function uncallable(): array {
		self::$found = array();
		foreach ( rest_get_server()->get_routes() as $route => $handlers ) {
			foreach ( $handlers as $handler ) {
				self::look( "the endpoint $route", $handler['callback'] ?? null, $route );
				self::look( "the guard of the endpoint $route", $handler['permission_callback'] ?? null, $route );
				foreach ( $handler['args'] ?? array() as $name => $about ) {
					foreach ( array( 'validate_callback', 'sanitize_callback' ) as $key ) {
						self::look( "the argument $name of the endpoint $route ($key)", $about[ $key ] ?? null );
					}
				}
			}
			self::look( "the schema of the endpoint $route", rest_get_server()->get_route_options( $route )['schema'] ?? null );
		}
		foreach ( \WP_Block_Type_Registry::get_instance()->get_all_registered() as $name => $block ) {
			self::look( "the block $name", $block->render_callback );
		}
		foreach ( Watch::$made['register_meta_args'] ?? array() as $made ) {
			foreach ( $made['calls'] as $key => $callback ) {
				self::look( "the field {$made['name']} ($key)", $callback );
			}
		}
		return self::$found;
	}

	/** What cannot be called of all that the administration is given. */
	public static function uncallable_there(): array {
		self::$found = array();
		foreach ( self::listed() as list( $sort, $name, $callback ) ) {
			self::look( self::called( $sort, $name ), $callback );
		}
		return self::$found;
	}

	/** What the host asks of people's data and of its own health, asked of modules once. */
	public static function asked( array $places ): void {
		foreach ( self::listed() as list( $sort, $name, $callback ) ) {
			$told = Facts::callable_told( $callback );
			if ( $told['callable'] && Facts::within( $told['file'], $places ) ) {
				$given   = 'health' === $sort ? array() : array( 'sample@example.org', 1 );
				$answer  = null;
				Trying::acted(
					self::called( $sort, $name ),
					$told,
					static function () use ( $callback, $given, &$answer ): void {
						$answer = call_user_func_array( $callback, $given );
					}
				);
				$lacks = null === $answer || is_array( $answer ) ? array_values( array_diff( self::HOLDS[ $sort ], array_keys( (array) $answer ) ) ) : array();
				answer( array( 'lacks' => array( self::called( $sort, $name ) => $told + array( 'lacks' => $lacks, 'returned' => gettype( $answer ) ) ) ) );
			}
		}
	}

	/** What modules add to the host's own tool for looks: each control with the section and settings that it names. */
	public static function looks( array $places ): array {
		if ( ! array_filter( Trying::callbacks( array( 'customize_register' ), $places ) ) ) {
			return array();
		}
		require_once ABSPATH . WPINC . '/class-wp-customize-manager.php';
		$manager = new \WP_Customize_Manager();
		$there   = array( array_keys( $manager->controls() ), array_keys( $manager->sections() ), array_keys( $manager->settings() ) );
		$came    = Facts::tried(
			static function () use ( $manager ): array {
				$GLOBALS['wp_customize'] = $manager;
				do_action( 'customize_register', $manager );
				return array( 'status' => 200 );
			}
		);
		$absent  = array();
		foreach ( array_diff_key( $manager->controls(), array_flip( $there[0] ) ) as $id => $control ) {
			if ( ! $manager->get_section( $control->section ) ) {
				$absent[] = array( $id, 'section', (string) $control->section, array_keys( $manager->sections() ) );
			}
			foreach ( $control->settings as $setting ) {
				if ( ! $setting ) {
					$absent[] = array( $id, 'setting', (string) $id, array_values( array_diff( array_keys( $manager->settings() ), $there[2] ) ) );
				}
			}
		}
		$uncallable = array();
		foreach ( array_diff_key( $manager->settings(), array_flip( $there[2] ) ) as $id => $setting ) {
			if ( $setting->sanitize_callback && ! is_callable( $setting->sanitize_callback, false, $name ) ) {
				$uncallable[] = array( $id, (string) $name );
			}
		}
		unset( $GLOBALS['wp_customize'] );
		return array( 'came' => $came + Trying::callbacks( array( 'customize_register' ), $places )[0], 'absent' => $absent, 'uncallable' => $uncallable );
	}

	/** Categories and handles that blocks and patterns of modules name and that nobody registers. */
	public static function blocks(): array {
		require_once ABSPATH . 'wp-admin/includes/post.php';
		$categories = array_column( get_block_categories( new \WP_Block_Editor_Context() ), 'slug' );
		$handles    = array_merge( array_keys( wp_scripts()->registered ), array_keys( wp_styles()->registered ) );
		$registered = \WP_Block_Type_Registry::get_instance()->get_all_registered();
		$own        = array_filter( array_keys( $registered ), static fn( $name ) => ! str_starts_with( $name, 'core/' ) );
		$absent     = array();
		foreach ( $own as $name ) {
			$block = $registered[ $name ];
			if ( $block->category && ! in_array( $block->category, $categories, true ) ) {
				$absent[] = array( "the block $name", 'category', $block->category, $categories );
			}
			foreach ( array( 'editor_script', 'script', 'view_script', 'editor_style', 'style' ) as $key ) {
				foreach ( (array) ( $block->{"{$key}_handles"} ?? array() ) as $handle ) {
					if ( ! in_array( $handle, $handles, true ) ) {
						$absent[] = array( "the block $name", str_ends_with( $key, 'style' ) ? 'style sheet' : 'script', (string) $handle, $handles );
					}
				}
			}
		}
		$absent = array( ...$absent, ...self::contents() );
		$sorts  = array_column( \WP_Block_Pattern_Categories_Registry::get_instance()->get_all_registered(), 'name' );
		foreach ( \WP_Block_Patterns_Registry::get_instance()->get_all_registered() as $pattern ) {
			if ( preg_match( '#^(core|query)/#', $pattern['name'] ) ) {
				continue;
			}
			foreach ( (array) ( $pattern['categories'] ?? array() ) as $category ) {
				if ( ! in_array( $category, $sorts, true ) ) {
					$absent[] = array( "the pattern {$pattern['name']}", 'category', (string) $category, $sorts );
				}
			}
			preg_match_all( '#<!-- wp:([a-z][\w-]*/[\w-]+)#', (string) $pattern['content'], $used );
			foreach ( array_diff( array_unique( $used[1] ), array_keys( $registered ) ) as $name ) {
				$absent[] = array( "the pattern {$pattern['name']}", 'block', $name, $own );
			}
		}
		return $absent;
	}

	/** What content types and taxonomies of modules name and that does not exist. */
	private static function contents(): array {
		$known    = array( 'title', 'editor', 'author', 'thumbnail', 'excerpt', 'trackbacks', 'custom-fields', 'comments', 'revisions', 'page-attributes', 'post-formats' );
		$absent   = array();
		$types    = array_values( get_post_types() );
		$sorts    = array_values( get_taxonomies() );
		foreach ( Watch::$made['registered_taxonomy'] ?? array() as $made ) {
			foreach ( array_diff( (array) ( get_taxonomy( $made['name'] )->object_type ?? array() ), array( ...$types, 'user', 'link', 'comment' ) ) as $type ) {
				$absent[] = array( "the taxonomy {$made['name']}", 'content type', (string) $type, $types );
			}
		}
		foreach ( Watch::$made['registered_post_type'] ?? array() as $made ) {
			foreach ( array_diff( (array) ( get_post_type_object( $made['name'] )->taxonomies ?? array() ), $sorts ) as $taxonomy ) {
				$absent[] = array( "the content type {$made['name']}", 'taxonomy', (string) $taxonomy, $sorts );
			}
			foreach ( array_diff( array_keys( get_all_post_type_supports( $made['name'] ) ), $known ) as $feature ) {
				$absent[] = array( "the content type {$made['name']}", 'feature', (string) $feature, $known );
			}
		}
		return $absent;
	}

	private static function called( string $sort, string $name ): string {
		$sorts = array( 'exporter' => 'the export of personal data', 'eraser' => 'the erasure of personal data', 'health' => "the test of the site's health" );
		return "{$sorts[ $sort ]} $name";
	}

	/** What modules list of each sort: sort, name, and what is called. */
	private static function listed(): array {
		$found = array();
		foreach ( array( 'exporter' => 'exporters', 'eraser' => 'erasers' ) as $sort => $plural ) {
			foreach ( (array) apply_filters( "wp_privacy_personal_data_$plural", array() ) as $name => $one ) {
				$found[] = array( $sort, (string) $name, is_array( $one ) ? $one['callback'] ?? null : null );
			}
		}
		$tests = apply_filters( 'site_status_tests', array( 'direct' => array(), 'async' => array() ) );
		foreach ( (array) ( $tests['direct'] ?? array() ) as $name => $one ) {
			$test = $one['test'] ?? null;
			if ( ! is_string( $test ) || is_callable( $test ) ) { // else a method of the host's own
				$found[] = array( 'health', (string) $name, $test );
			}
		}
		return $found;
	}

	private static function look( string $what, $callback, string $route = '' ): void {
		if ( null === $callback || '' === $callback || is_callable( $callback ) ) {
			return;
		}
		$told = Facts::callable_told( $callback );
		if ( '' !== $told['name'] && 'Closure::__invoke' !== $told['name'] ) {
			self::$found[] = array( 'what' => $what, 'route' => $route ) + $told;
		}
	}
}
