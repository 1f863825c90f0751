<?php
/** What the loaded host knows, asked over its public functions. */

namespace SwiftSprout;

/** The host was about to end the request. */
final class Died extends \Exception {}

/** What is asked of it, step by step. */
final class Facts {
	/** The host itself. */
	public static function host(): array {
		global $wpdb, $wp_version;
		return array(
			'version'    => $wp_version,
			'php'        => PHP_VERSION,
			'database'   => $wpdb->db_server_info(),
			'prefix'     => $wpdb->prefix,
			'permalinks' => (string) get_option( 'permalink_structure' ),
			'theme'      => get_stylesheet(),
			'theme_here' => wp_get_theme()->exists(),
			'home'       => home_url( '/' ),
			'language'   => get_locale(),
		);
	}

	/** The modules that the host finds, which of them are on, and whether it would take them. */
	public static function modules(): array {
		require_once ABSPATH . 'wp-admin/includes/plugin.php';
		wp_clean_plugins_cache( false );
		$active = (array) get_option( 'active_plugins' );
		$found  = array();
		foreach ( get_plugins() as $file => $data ) {
			$valid  = validate_plugin( $file );
			$needs  = validate_plugin_requirements( $file );
			$found[ $file ] = array(
				'name'     => $data['Name'],
				'version'  => $data['Version'],
				'domain'   => $data['TextDomain'],
				'active'   => in_array( $file, $active, true ),
				'refused'  => is_wp_error( $valid ) ? $valid->get_error_message() : ( is_wp_error( $needs ) ? wp_strip_all_tags( $needs->get_error_message() ) : '' ),
			);
		}
		return array( 'found' => $found, 'active' => array_values( $active ) );
	}

	/** The rewrite rules that are saved, those that the host would make now, and the names of query variables. */
	public static function rules(): array {
		global $wp, $wp_rewrite;
		$saved = get_option( 'rewrite_rules' );
		$wp_rewrite->matches = 'matches';
		return array(
			'saved' => is_array( $saved ) ? $saved : array(),
			'now'   => $wp_rewrite->extra_rules_top + $wp_rewrite->extra_rules,
			'broken' => array_values( array_filter( array_keys( $wp_rewrite->extra_rules_top + $wp_rewrite->extra_rules ), static fn( $rule ) => false === @preg_match( "#^$rule#", '' ) ) ),
			'names' => array_values( apply_filters( 'query_vars', $wp->public_query_vars ) ),
		);
	}

	/** The endpoints: each with its methods, and who answers and guards them. */
	public static function endpoints(): array {
		$found = array();
		foreach ( rest_get_server()->get_routes() as $route => $handlers ) {
			if ( preg_match( '#^/(wp/v2|oembed|batch|wp-site-health|wp-block-editor)|^/$#', $route ) ) {
				continue;
			}
			foreach ( $handlers as $handler ) {
				$found[] = array(
					'route'   => $route,
					'methods' => array_keys( array_filter( $handler['methods'] ) ),
					'answers' => self::callable_told( $handler['callback'] ?? null ),
					'guards'  => self::callable_told( $handler['permission_callback'] ?? null ),
					'broken'  => false === @preg_match( '@^' . $route . '$@i', '' ),
				);
			}
		}
		return $found;
	}

	/** The files of PHP that are loaded, of modules of some places. */
	public static function loaded( array $places ): array {
		return array_values( array_filter( get_included_files(), static fn( $file ) => self::within( $file, $places ) ) );
	}

	/** Everything that hangs on a hook and comes from a module, whether it can be called, and with how many arguments. */
	public static function hooks(): array {
		$found = array();
		foreach ( $GLOBALS['wp_filter'] as $hook => $holder ) {
			foreach ( $holder->callbacks as $priority => $callbacks ) {
				foreach ( $callbacks as $callback ) {
					$told = self::callable_told( $callback['function'] );
					if ( ! $told['callable'] || str_contains( $told['file'], '/plugins/' ) ) {
						$mirror  = Watch::mirror( Watch::original( $callback['function'] ) );
						$found[] = array(
							'hook'     => (string) $hook,
							'priority' => $priority,
							'given'    => $callback['accepted_args'],
							'wants'    => $mirror ? $mirror->getNumberOfRequiredParameters() : 0,
						) + $told;
					}
				}
			}
		}
		return $found;
	}

	/** Blocks, widgets, areas of the theme and what stands in them, shortcodes. */
	public static function places(): array {
		global $wp_registered_sidebars, $wp_widget_factory, $shortcode_tags, $wp_registered_widgets;
		$blocks = array();
		foreach ( \WP_Block_Type_Registry::get_instance()->get_all_registered() as $name => $block ) {
			if ( ! str_starts_with( $name, 'core/' ) ) {
				$blocks[ $name ] = array(
					'draws'   => self::callable_told( $block->render_callback ),
					'scripts' => $block->editor_script_handles ?? array(),
				);
			}
		}
		$widgets = array();
		foreach ( $wp_widget_factory->widgets as $widget ) {
			$widgets[ $widget->id_base ] = self::class_told( $widget );
		}
		$codes = array();
		foreach ( $shortcode_tags as $tag => $function ) {
			$codes[ $tag ] = self::callable_told( $function );
		}
		return array(
			'areas'      => array_keys( $wp_registered_sidebars ),
			'placed'     => wp_get_sidebars_widgets(),
			'known'      => array_keys( $wp_registered_widgets ),
			'blocks'     => $blocks,
			'widgets'    => $widgets,
			'shortcodes' => $codes,
			'menus'      => array_keys( get_registered_nav_menus() ),
			'settings'   => array_keys( get_registered_settings() ),
		);
	}

	/** The roles and what each holds. */
	public static function roles(): array {
		$found = array();
		foreach ( wp_roles()->roles as $key => $role ) {
			$found[ $key ] = array(
				'name'  => $role['name'],
				'holds' => array_keys( array_filter( $role['capabilities'] ) ),
				'users' => count( get_users( array( 'role' => $key, 'fields' => 'ID', 'number' => 5 ) ) ),
			);
		}
		return $found;
	}

	/** The people who can sign in, and their roles. */
	public static function people(): array {
		$found = array();
		foreach ( get_users( array( 'number' => 200 ) ) as $user ) {
			$found[ $user->user_login ] = array_values( $user->roles );
		}
		return $found;
	}

	/** What module's endpoints that need nothing answer: to a visitor, and to somebody who may do all. */
	public static function calls( array $places ): array {
		$found = array();
		foreach ( self::endpoints() as $told ) {
			if ( ! in_array( 'GET', $told['methods'], true ) || str_contains( $told['route'], '(' ) || ! self::within( $told['answers']['file'], $places ) ) {
				continue;
			}
			foreach ( array( 'visitor' => 0, 'administrator' => Persons::number() ) as $who => $user ) {
				wp_set_current_user( $user );
				$found[] = array( $told['route'], $who ) + self::tried(
					static function () use ( $told ): array {
						$answer = rest_do_request( new \WP_REST_Request( 'GET', $told['route'] ) );
						return array( 'status' => $answer->get_status(), 'said' => substr( (string) wp_json_encode( $answer->get_data() ), 0, 200 ) );
					}
				);
			}
		}
		wp_set_current_user( Persons::number() );
		return $found;
	}

	/** What the guards of modules' endpoints say to somebody who may do all; only what kind of answer it is. */
	public static function guards( array $places ): array {
		$found = array();
		foreach ( rest_get_server()->get_routes() as $route => $handlers ) {
			foreach ( $handlers as $handler ) {
				$guard = self::callable_told( $handler['permission_callback'] ?? null );
				if ( ! $guard['callable'] || ! self::within( $guard['file'], $places ) ) {
					continue;
				}
				$method  = (string) array_key_first( array_filter( $handler['methods'] ) );
				$found[] = array( 'route' => $route, 'method' => $method ) + $guard + self::tried(
					static fn(): array => array( 'says' => gettype( call_user_func( $handler['permission_callback'], new \WP_REST_Request( $method, $route ) ) ) )
				);
			}
		}
		return $found;
	}

	/** What something does when it is called: its own answer, or how the request ended there. */
	public static function tried( callable $what ): array {
		add_filter( 'wp_die_handler', array( self::class, 'dying' ), PHP_INT_MAX );
		$begun = microtime( true );
		try {
			$told = $what();
		} catch ( Died $died ) {
			$place = Guard::outside( $died->getTrace() );
			$told  = array( 'status' => $died->getCode(), 'said' => $died->getMessage(), 'died' => $place );
		} catch ( \Throwable $thrown ) {
			$told = array( 'status' => 500, 'fatal' => array( get_class( $thrown ), $thrown->getMessage(), ...Guard::place_of( $thrown ), '' ) );
		}
		remove_filter( 'wp_die_handler', array( self::class, 'dying' ), PHP_INT_MAX );
		return $told + array( 'seconds' => microtime( true ) - $begun );
	}

	/** The host's own way to end a request, as something that can be told. */
	public static function dying(): callable {
		return static function ( $message, $title = '', $given = array() ): void {
			$text = is_wp_error( $message ) ? $message->get_error_message() : (string) $message;
			throw new Died( wp_strip_all_tags( $text ), (int) ( is_array( $given ) ? $given['response'] ?? 500 : 500 ) );
		};
	}

	/** Whether a file lies in one of the places. */
	public static function within( string $file, array $places ): bool {
		foreach ( $places as $place ) {
			if ( $file === $place || str_starts_with( $file, "$place/" ) ) {
				return true;
			}
		}
		return false;
	}

	/** What can be told of a thing that is to be called: its name, whether it can be, and where it stands. */
	public static function callable_told( $callback ): array {
		$told     = array( 'name' => '', 'callable' => false, 'file' => '', 'line' => 0 );
		$callback = Watch::original( $callback );
		if ( null === $callback || '' === $callback ) {
			return $told;
		}
		$told['callable'] = is_callable( $callback, false, $name );
		$told['name']     = (string) $name;
		if ( $told['callable'] ) {
			$mirror       = Watch::mirror( $callback );
			$told['file'] = $mirror ? (string) $mirror->getFileName() : '';
			$told['line'] = $mirror ? (int) $mirror->getStartLine() : 0;
		} elseif ( is_array( $callback ) && is_object( $callback[0] ) ) {
			$told['file'] = self::class_told( $callback[0] )['file'];
		} elseif ( is_array( $callback ) && class_exists( (string) $callback[0] ) ) {
			$told['file'] = (string) ( new \ReflectionClass( $callback[0] ) )->getFileName();
		}
		return $told;
	}

	private static function class_told( object $thing ): array {
		$mirror = new \ReflectionClass( $thing );
		return array( 'name' => $mirror->getName(), 'file' => (string) $mirror->getFileName(), 'line' => (int) $mirror->getStartLine() );
	}
}
