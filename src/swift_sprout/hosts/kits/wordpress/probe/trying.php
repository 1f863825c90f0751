<?php
/**
 * Does what no page shows: what people do in the administration, on rows and values that are made up.
 *
 * Only with modules that reach nothing but the database and files, and only where the database takes back what is
 * written; files are kept from the disk.
 */

namespace SwiftSprout;

final class Trying {
	/** What a request may hold: the keys that code reads, and the nonces that it asks for. */
	private const KEYS   = '/\$_(?:POST|GET|REQUEST)\s*\[\s*[\'"]([\w-]+)[\'"]/';
	private const CHECKS = '/\b(?:check_admin_referer|check_ajax_referer)\(\s*[\'"]([^\'"]+)[\'"](?:\s*,\s*[\'"](\w+)[\'"])?/';
	private const VERIFY = '/\bwp_verify_nonce\(.*?\$_(?:POST|GET|REQUEST)\s*\[\s*[\'"]([\w-]+)[\'"].*?,\s*[\'"]([^\'"]+)[\'"]\s*\)/s';

	private const MANY = 16;
	private const FEW  = 8;

	/** Choices of an argument that are tried. */
	private const MOST_CHOICES = 4;

	/** Hooks of lists and profiles whose value nobody looks at. */
	private const ACTIONS = '/_posts_custom_column$|_user_profile$|_add_form_fields$/';

	private static array $columns = array(
		'int'  => 1, 'dec' => 1, 'floa' => 1, 'doub' => 1, 'bit' => 1, 'year' => 2026, 'date' => '2026-11-23 06:30:00', 'time' => '06:30:00',
	);

	/** Whether rows were made up in this run. */
	public static bool $made_rows = false;

	/** Take back all that was done until now, the rows that were made up among it. */
	public static function forget(): void {
		global $wpdb;
		mysqli_rollback( $wpdb->dbh );
		wp_cache_flush();
		self::$made_rows = false;
	}

	/** Of some places those of modules that are tried: all, or none where the database cannot take back what is written. */
	public static function of( array $places ): array {
		return $places && self::may() ? $places : array();
	}

	/** A few of the modules that are tried, where there are many: what takes long is done with those alone. */
	public static function few( array $places ): array {
		return count( $places ) > self::MANY ? array_slice( $places, 0, self::FEW ) : $places;
	}

	/** Whether the database keeps all its tables in a way that knows transactions. */
	private static function may(): bool {
		global $wpdb;
		$kinds = $wpdb->get_col( $wpdb->prepare( 'SELECT DISTINCT ENGINE FROM information_schema.TABLES WHERE TABLE_SCHEMA = %s AND TABLE_NAME LIKE %s AND ENGINE IS NOT NULL', DB_NAME, $wpdb->esc_like( $wpdb->prefix ) . '%' ) );
		return array( 'innodb' ) === array_map( 'strtolower', $kinds );
	}

	/** Make a row of each table and content type of modules that has none; what it is made of is made up. */
	public static function rows( array $places ): array {
		if ( ! $places ) {
			return array();
		}
		Files::keep();
		$made = self::posts( $places );
		foreach ( Asked::columns() as $table => $columns ) {
			if ( self::row( $table ) ) {
				$made[] = $table;
			}
		}
		self::$made_rows = (bool) $made;
		return $made;
	}

	private static function posts( array $places ): array {
		$made = array();
		foreach ( Watch::$made['registered_post_type'] ?? array() as $type ) {
			if ( ! Facts::within( $type['file'], $places ) || self::reach_others( self::kept_by( $type['name'] ), $places ) || get_posts( array( 'post_type' => $type['name'], 'numberposts' => 1, 'post_status' => 'any' ) ) ) {
				continue;
			}
			self::with_request( self::callbacks( array( 'save_post', "save_post_{$type['name']}" ), $places ) );
			Watch::failures();
			Guard::$made_up = true;
			$told = Facts::tried(
				static function () use ( $type ): array {
					$values = array( 'post_type' => $type['name'], 'post_status' => 'publish', 'post_title' => 'Sample', 'post_content' => 'Sample' );
					return array( 'status' => 200, 'number' => wp_insert_post( $values ) );
				}
			);
			Watch::failures();
			Guard::$made_up = false;
			$_POST          = array();
			$_REQUEST       = array();
			answer( array( 'acted' => array( "save_post_{$type['name']}" => array( 'file' => $type['file'], 'line' => $type['line'] ) + $told ) ) );
			$made[] = $type['name'];
		}
		return $made;
	}

	/** The hooks that keeping a post of a type calls. */
	private static function kept_by( string $type ): array {
		return array( 'save_post', "save_post_$type", 'wp_insert_post', 'wp_after_insert_post', 'transition_post_status', 'publish_post', "publish_$type", 'new_to_publish', 'clean_post_cache', 'added_post_meta' );
	}

	/** Whether some hooks call other modules, which may do more than work on the database and files. */
	public static function reach_others( array $hooks, array $places ): bool {
		foreach ( $hooks as $hook ) {
			foreach ( $GLOBALS['wp_filter'][ $hook ]->callbacks ?? array() as $callbacks ) {
				foreach ( $callbacks as $callback ) {
					$told = Facts::callable_told( $callback['function'] );
					if ( Guard::in_module( $told['file'] ) && ! Facts::within( $told['file'], $places ) ) {
						return true;
					}
				}
			}
		}
		return false;
	}

	private static function row( string $table ): bool {
		global $wpdb;
		$name = $wpdb->prefix . $table;
		if ( $wpdb->get_var( "SELECT 1 FROM `$name` LIMIT 1" ) ) {
			return false;
		}
		$values = array();
		$later  = array();
		foreach ( $wpdb->get_results( "SHOW COLUMNS FROM `$name`" ) as $column ) {
			if ( str_contains( $column->Extra, 'auto_increment' ) || str_contains( $column->Extra, 'GENERATED' ) ) {
				continue;
			}
			$value = 'sample';
			foreach ( self::$columns as $begins => $sample ) {
				$value = str_contains( strtolower( $column->Type ), $begins ) ? $sample : $value;
			}
			if ( preg_match( "/^enum\('([^']*)'/i", $column->Type, $first ) ) {
				$value = $first[1];
			} elseif ( preg_match( '/char\((\d+)\)/', $column->Type, $long ) ) {
				$value = substr( $value, 0, (int) $long[1] );
			}
			if ( 'sample' === $value ) {
				$value = str_contains( $column->Field, 'mail' ) ? 'sample@example.org' : ( (string) $column->Default ?: $value );
			}
			$values[ $column->Field ] = $value;
			if ( preg_match( '/^(date|timestamp)/i', $column->Type ) ) {
				$later[ $column->Field ] = gmdate( 'Y-m-d H:i:s', time() + 3 * DAY_IN_SECONDS );
			}
		}
		$quiet  = $wpdb->suppress_errors( true );
		$result = $wpdb->insert( $name, $values );
		$wpdb->insert( $name, $later + $values ); // what is to come; not where each row must be another
		$wpdb->suppress_errors( $quiet );
		return (bool) $result;
	}

	/** What hangs on the hooks of lists, profiles and forms of the administration, called once as the screens call it. */
	public static function lists( array $places ): void {
		global $wp_filter;
		$user  = wp_get_current_user();
		$given = array(
			'/^manage_(?:edit-)?(\w+)_posts_columns$|^manage_(?:posts|pages|media|users|comments)_columns$|^manage_edit-(\w+)_columns$/' => static fn() => array( array( 'cb' => '', 'title' => 'Title' ) ),
			'/^(?:post|page|user|media|comment|tag)_row_actions$/' => static fn( $hook ) => array( array( 'edit' => 'Edit' ), self::thing( $hook ) ),
			'/^plugin_action_links_(.+)$/' => static fn( $hook, $file ) => array( array( 'deactivate' => 'Off' ), $file, array( 'Name' => $file ), 'all' ),
			'/^plugin_row_meta$/' => static fn() => array( array( 'version' ), (string) key( get_plugins() ), (array) current( get_plugins() ), 'all' ),
			'/^(?:show|edit)_user_profile$/' => static fn() => array( $user ),
			'/^(\w+)_add_form_fields$/' => static fn( $hook, $tax ) => array( $tax ),
			'/^(?:manage_users_custom_column)$/' => static fn() => array( 'sample', 'sample', $user->ID ),
			'/^manage_(\w+)_posts_custom_column$/' => static fn( $hook, $type ) => self::each_column( $type ),
			'/^sanitize_option_(.+)$/' => static fn( $hook, $name ) => get_option( $name ) ? array( get_option( $name ), $name, get_option( $name ) ) : array(),
		);
		foreach ( array_keys( $wp_filter ) as $hook ) {
			foreach ( $given as $form => $values ) {
				if ( ! preg_match( $form, (string) $hook, $named ) || ! ( $first = self::callbacks( array( $hook ), $places )[0] ?? null ) ) {
					continue;
				}
				$calls = $values( $hook, end( $named ) );
				foreach ( is_array( $calls[0] ?? null ) && isset( $calls['each'] ) ? $calls['each'] : array_filter( array( $calls ) ) as $call ) {
					$does = preg_match( self::ACTIONS, (string) $hook ) ? 'do_action_ref_array' : 'apply_filters_ref_array';
					self::acted( (string) $hook, $first, static fn() => $does( $hook, $call ) );
				}
			}
		}
	}

	/** What modules' widgets draw: on a page, and as a form. */
	public static function widgets( array $places ): void {
		global $wp_widget_factory;
		foreach ( $wp_widget_factory->widgets as $widget ) {
			$told = Facts::callable_told( array( $widget, 'widget' ) );
			if ( ! Facts::within( $told['file'], $places ) ) {
				continue;
			}
			$around = array( 'before_widget' => '', 'after_widget' => '', 'before_title' => '', 'after_title' => '', 'widget_id' => 'sample', 'name' => '', 'id' => '' );
			self::acted( "the widget {$widget->id_base}", $told, static fn() => $widget->widget( $around, array() ) );
			self::acted( "the form of the widget {$widget->id_base}", $told, static fn() => $widget->form( array() ) );
			$kept = false; // until it is told, for it may fail on what is made up
			self::acted(
				"keeping the widget {$widget->id_base}",
				$told,
				static function () use ( $widget, &$kept ): void {
					$kept = $widget->update( array( 'title' => 'Sample' ), array() );
				}
			);
			answer( array( 'kept' => array( $widget->id_base => Facts::callable_told( array( $widget, 'update' ) ) + array( 'returned' => gettype( $kept ) ) ) ) );
		}
	}

	/** What modules' screens and boxes of the first screen draw once there are rows. */
	public static function screens( array $places ): void {
		global $wp_meta_boxes;
		foreach ( $places ? Administration::menu() : array() as $entry ) {
			if ( $entry['hook'] && Facts::within( $entry['file'], $places ) ) {
				$_GET['page'] = $_REQUEST['page'] = $GLOBALS['plugin_page'] = $entry['slug'];
				$told         = array( 'file' => $entry['file'], 'line' => $entry['line'] );
				self::acted( "the screen {$entry['slug']}", $told, static fn() => do_action( $entry['hook'] ) );
			}
		}
		unset( $_GET['page'], $_REQUEST['page'] );
		$setups = self::callbacks( array( 'wp_dashboard_setup' ), $places );
		if ( ! $setups ) {
			return;
		}
		require_once ABSPATH . 'wp-admin/includes/dashboard.php';
		set_current_screen( 'dashboard' );
		self::acted( 'wp_dashboard_setup', $setups[0], static fn() => do_action( 'wp_dashboard_setup' ) );
		$sides = array_merge( ...array_values( array_map( static fn( $side ) => array_merge( ...array_values( $side ) ), $wp_meta_boxes['dashboard'] ?? array() ) ) );
		foreach ( $sides as $id => $box ) {
			$told = is_array( $box ) ? Facts::callable_told( $box['callback'] ) : array( 'file' => '', 'callable' => false );
			if ( $told['callable'] && Facts::within( $told['file'], $places ) ) {
				self::acted( "the box $id", $told, static fn() => call_user_func( $box['callback'], '', $box ) );
			}
		}
	}

	/** What modules' shortcodes and blocks draw once there are rows. */
	public static function drawn( array $places ): void {
		global $shortcode_tags;
		foreach ( $shortcode_tags as $tag => $function ) {
			$told = Facts::callable_told( $function );
			if ( $told['callable'] && Facts::within( $told['file'], $places ) ) {
				self::acted( "the shortcode $tag", $told, static fn() => call_user_func( $function, '', null, $tag ) );
			}
		}
	}

	/** What answers the forms and scripts of the administration. */
	public static function answers( array $places ): void {
		global $wp_filter;
		set_time_limit( 10 );
		add_filter( 'wp_doing_ajax', '__return_true' );
		add_filter( 'wp_die_ajax_handler', array( Facts::class, 'dying' ), PHP_INT_MAX );
		foreach ( array_keys( $wp_filter ) as $hook ) {
			if ( ! preg_match( '/^(?:wp_ajax_(?:nopriv_)?|admin_post_(?:nopriv_)?)\w/', (string) $hook ) ) {
				continue;
			}
			$callbacks = self::callbacks( array( $hook ), $places );
			if ( $callbacks ) {
				self::with_request( $callbacks );
				self::acted( (string) $hook, $callbacks[0], static fn() => do_action( $hook ) );
			}
		}
		$_POST    = array();
		$_REQUEST = array();
	}

	/** What endpoints answer that change something, or whose addresses have parts that vary. */
	public static function endpoints( array $places ): void {
		foreach ( rest_get_server()->get_routes() as $route => $handlers ) {
			foreach ( $handlers as $handler ) {
				$told = Facts::callable_told( $handler['callback'] ?? null );
				if ( ! $told['callable'] || ! Facts::within( $told['file'], $places ) ) {
					continue;
				}
				$path = preg_replace( array( '/\(\?P<\w+>(?:\[\\\\d\]|\\\\d|\[0-9\])[^)]*\)/', '/\(\?P<\w+>[^()]*\)/' ), array( '1', 'sample' ), $route );
				foreach ( str_contains( $path, '(' ) ? array() : array_keys( array_filter( $handler['methods'] ) ) as $method ) {
					$plain = 'GET' === $method && $path === $route;
					if ( $plain && empty( $handler['args'] ) ) {
						continue; // asked for by itself
					}
					self::acted(
						"$method $route",
						$told,
						static function () use ( $method, $path, $handler, $route, $plain ): void {
							for ( $choice = 0; $choice < self::MOST_CHOICES; $choice++ ) {
								$request = new \WP_REST_Request( $method, $path );
								$more    = false;
								foreach ( $handler['args'] ?? array() as $name => $about ) {
									$choices = self::samples( (array) $about, (string) $name );
									$more    = $more || isset( $choices[ $choice + 1 ] );
									if ( ! str_contains( $route, "<$name>" ) && ( ! isset( $about['default'] ) || ( $plain && '' === $about['default'] ) ) ) {
										$request->set_param( $name, $choices[ $choice ] ?? $choices[0] );
									}
								}
								rest_do_request( $request );
								if ( ! $more ) {
									break;
								}
							}
						}
					);
				}
			}
		}
	}

	/** What an argument may be; a few of its choices, where it has some. */
	private static function samples( array $about, string $name ): array {
		$choices = array_values( array_filter( (array) ( $about['enum'] ?? array() ) ) );
		$forms   = array( 'date-time' => '2026-11-23T06:30:00', 'email' => 'sample@example.org', 'uri' => home_url( '/' ), 'ip' => '127.0.0.1' );
		$kinds   = array( 'integer' => (int) ( $about['minimum'] ?? 1 ), 'number' => 1.5, 'boolean' => true, 'array' => array(), 'object' => array() );
		$said    = $forms[ $about['format'] ?? '' ] ?? ( str_contains( $name, 'mail' ) ? $forms['email'] : 'sample' );
		return $choices ?: array( $kinds[ ( (array) ( $about['type'] ?? 'string' ) )[0] ] ?? $said );
	}

	/** What the callbacks of modules on some hooks are. */
	public static function callbacks( array $hooks, array $places ): array {
		$found = array();
		foreach ( $hooks as $hook ) {
			foreach ( $GLOBALS['wp_filter'][ $hook ]->callbacks ?? array() as $callbacks ) {
				foreach ( $callbacks as $callback ) {
					$told = self::told( $callback['function'] );
					if ( $told['callable'] && Facts::within( $told['file'], $places ) ) {
						$found[] = $told;
					}
				}
			}
		}
		return $found;
	}

	/** What can be told of a thing that is called, and the last of its lines. */
	public static function told( $function ): array {
		$mirror = Watch::mirror( Watch::original( $function ) );
		return Facts::callable_told( $function ) + array( 'last' => $mirror ? (int) $mirror->getEndLine() : 0 );
	}

	/** The lines of something that was told. */
	public static function text_of( array $told ): string {
		return implode( '', array_slice( (array) file( $told['file'] ), $told['line'] - 1, $told['last'] - $told['line'] + 1 ) );
	}

	/** Let the request hold what the code of some callbacks reads of it. */
	public static function with_request( array $callbacks ): void {
		$_POST = array();
		foreach ( $callbacks as $told ) {
			$text = self::text_of( $told );
			preg_match_all( self::KEYS, $text, $keys );
			foreach ( array_unique( $keys[1] ) as $key ) {
				$_POST += array( $key => self::entered( $key, $text ) );
			}
			preg_match_all( self::CHECKS, $text, $checks, PREG_SET_ORDER );
			foreach ( $checks as $check ) {
				$nonce = wp_create_nonce( $check[1] );
				$_POST = array_merge( $_POST, array( '_wpnonce' => $nonce, '_ajax_nonce' => $nonce ), isset( $check[2] ) ? array( $check[2] => $nonce ) : array() );
			}
			preg_match_all( self::VERIFY, $text, $verified, PREG_SET_ORDER );
			foreach ( $verified as $check ) {
				$_POST[ $check[1] ] = wp_create_nonce( $check[2] );
			}
		}
		$_REQUEST = $_POST;
	}

	/** What somebody enters in a field: many values where the code reads parts of it. */
	private static function entered( string $key, string $text ) {
		$named = preg_quote( $key, '/' );
		preg_match_all( "/\\\$_(?:POST|GET|REQUEST)\\s*\\[\\s*['\"]{$named}['\"]\\s*\\]\\s*\\[\\s*['\"](\\w+)['\"]/", $text, $parts );
		if ( preg_match( "/\\\$(\\w+)\\s*=[^;=]*\\\$_(?:POST|GET|REQUEST)\\s*\\[\\s*['\"]{$named}['\"]\\s*\\][^;]*;/", $text, $held ) ) {
			preg_match_all( "/\\\${$held[1]}\\s*\\[\\s*['\"](\\w+)['\"]/", $text, $more );
			$parts[1] = array_merge( $parts[1], $more[1] );
		}
		$value = static fn( $name ) => str_contains( $name, 'mail' ) ? 'sample@example.org' : '1';
		return $parts[1] ? array_combine( $parts[1], array_map( $value, $parts[1] ) ) : $value( $key );
	}

	private static function each_column( string $type ): array {
		$post = get_posts( array( 'post_type' => $type, 'numberposts' => 1, 'post_status' => 'any' ) )[0] ?? null;
		$columns = apply_filters( "manage_{$type}_posts_columns", array( 'title' => 'Title' ) );
		return $post && is_array( $columns ) ? array( array(), 'each' => array_map( static fn( $column ) => array( $column, $post->ID ), array_keys( $columns ) ) ) : array();
	}

	private static function thing( string $hook ) {
		$user = str_starts_with( $hook, 'user' );
		return $user ? wp_get_current_user() : ( get_posts( array( 'numberposts' => 1, 'post_type' => 'any', 'post_status' => 'any' ) )[0] ?? new \WP_Post( new \stdClass() ) );
	}

	/** Do something and tell what came of it; told before as well, for it may end the run. */
	public static function acted( string $what, array $callback, callable $do ): void {
		if ( in_array( $what, question()['passed'] ?? array(), true ) ) {
			return; // done in a run before this one, which ended
		}
		answer( array( 'acted' => array( $what => $callback + array( 'ended' => true ) ) ) );
		Watch::failures();
		Guard::$made_up = true;
		Files::$written = false;
		$told = Facts::tried(
			static function () use ( $do ): array {
				ob_start();
				try {
					$do();
				} finally {
					ob_end_clean();
				}
				return array( 'status' => 200 );
			}
		);
		Watch::failures();
		Guard::$made_up = false;
		answer( array( 'acted' => array( $what => $callback + $told + array( 'wrote' => Files::$written ) ) ) );
	}
}
