<?php
/**
 * Looks on while the host calls what modules hang on its hooks: filters that lose their value or print, registrations
 * and statements with the line of the module that made them.
 */

namespace SwiftSprout;

/** What was seen of modules' code at work; all of it is told with the line where it stands. */
final class Watch {
	public static array $filters      = array();
	public static array $made         = array();
	public static array $failures     = array();
	private static array $of_host     = array();
	public static array $wrong        = array();
	private static array $met         = array();
	private static array $modules     = array();
	private static array $asked       = array();
	private static array $swallowed   = array();
	private static int $failed        = 0;
	private static ?\WeakMap $watched = null;

	/** Look on from before the host is loaded. */
	public static function begin(): void {
		self::$watched = new \WeakMap();
		if ( ! getenv( 'SPROUT_LOG' ) || isset( $_SERVER['HTTP_X_SPROUT_WATCH'] ) ) { // dear: every hook is looked at
			Guard::hook( 'muplugins_loaded', array( self::class, 'modules_come' ), 0, PHP_INT_MAX );
		}
		foreach ( array( 'registered_post_type', 'registered_taxonomy', 'register_setting', 'load_textdomain' ) as $hook ) {
			Guard::hook( $hook, static fn( ...$given ) => self::made( $hook, $given ), 3, PHP_INT_MIN );
		}
		Guard::hook( 'register_meta_args', array( self::class, 'field' ), 4, PHP_INT_MIN );
		Guard::hook( 'doing_it_wrong_run', array( self::class, 'wrong' ), 2, PHP_INT_MIN );
	}

	/** From now on modules are loaded: what is there before is the host's own, and need not be looked at. */
	public static function modules_come(): void {
		self::$of_host = array_flip( get_defined_functions()['user'] ) + array_flip( get_declared_classes() );
		add_filter( 'all', array( self::class, 'met' ), PHP_INT_MIN );
	}

	/** A hook is about to be called: what modules hung on it is watched, just for this call. */
	public static function met( $hook ): void {
		$holder = is_string( $hook ) && 'all' !== $hook ? $GLOBALS['wp_filter'][ $hook ] ?? null : null;
		if ( ! $holder instanceof \WP_Hook ) {
			return;
		}
		$count = array_sum( array_map( 'count', $holder->callbacks ) );
		if ( ( self::$met[ $hook ] ?? 0 ) !== $count ) {
			self::$met[ $hook ]     = $count;
			self::$modules[ $hook ] = self::of_modules( $holder );
		}
		foreach ( self::$modules[ $hook ] ?? array() as list( $priority, $key, $place ) ) {
			$function = $holder->callbacks[ $priority ][ $key ]['function'] ?? null;
			if ( null !== $function && ! ( $function instanceof \Closure && isset( self::$watched[ $function ] ) ) ) {
				$holder->callbacks[ $priority ][ $key ]['function'] = self::around( $function, $place, $holder, $priority, $key );
			}
		}
	}

	/** What modules hung on a hook: priority, key, and the place of the function. */
	private static function of_modules( \WP_Hook $holder ): array {
		$found = array();
		foreach ( $holder->callbacks as $priority => $callbacks ) {
			foreach ( $callbacks as $key => $callback ) {
				$function = $callback['function'];
				$first    = is_array( $function ) ? ( $function[0] ?? '' ) : $function;
				$named    = is_object( $first ) ? get_class( $first ) : ( is_array( $function ) ? $first : strtolower( (string) $first ) );
				if ( isset( self::$of_host[ $named ] ) && ! $first instanceof \Closure ) {
					continue;
				}
				$mirror = self::mirror( self::original( $function ) );
				if ( null !== $mirror && Guard::in_module( (string) $mirror->getFileName() ) && ! self::by_reference( $mirror ) ) {
					$found[] = array( $priority, $key, array( $mirror->getFileName(), (int) $mirror->getStartLine(), (int) $mirror->getEndLine() ) );
				}
			}
		}
		return $found;
	}

	/** The function that was hung on a hook, without what looks on around it. */
	public static function original( $function ) {
		return $function instanceof \Closure && isset( self::$watched[ $function ] ) ? self::$watched[ $function ] : $function;
	}

	/** What can be told of a thing that is called; null when it cannot be called. */
	public static function mirror( $function ): ?\ReflectionFunctionAbstract {
		try {
			if ( is_array( $function ) ) {
				return is_callable( $function ) ? new \ReflectionMethod( $function[0], $function[1] ) : null;
			}
			if ( is_object( $function ) && ! $function instanceof \Closure ) {
				return new \ReflectionMethod( $function, '__invoke' );
			}
			return is_string( $function ) && str_contains( $function, '::' ) ? new \ReflectionMethod( $function ) : new \ReflectionFunction( $function );
		} catch ( \ReflectionException | \TypeError ) {
			return null;
		}
	}

	/** A statement is about to be asked of the database; where it stands in a module is kept. */
	public static function asked( string $sql, bool $swallowed ): void {
		self::failures();
		self::$asked = array( $sql, ...Guard::outside( debug_backtrace( DEBUG_BACKTRACE_IGNORE_ARGS, 30 ) ) );
		if ( $swallowed ) {
			self::$swallowed[] = $sql;
		}
	}

	/** Take in what the database refused since the last time. */
	public static function failures(): void {
		global $wpdb, $EZSQL_ERROR;
		$refused = array_slice( (array) $EZSQL_ERROR, self::$failed );
		self::$failed += count( $refused );
		foreach ( $refused as $one ) {
			$sql = trim( (string) $one['query'] );
			if ( ! self::$asked || $wpdb->suppress_errors || preg_match( '/^(describe|show|explain)\b/i', $sql ) ) {
				continue;
			}
			if ( preg_match( '/^(deadlock found|lock wait timeout)/i', (string) $one['error_str'] ) ) {
				continue; // with whom else asks: another run of ours may be one
			}
			if ( Guard::$made_up && ! preg_match( Guard::OF_CODE, (string) $one['error_str'] ) ) {
				continue; // it may come of the values
			}
			if ( Guard::in_module( self::$asked[1] ) && ! self::follows( $sql, (string) $one['error_str'] ) ) {
				self::$failures[] = array( (string) $one['error_str'], substr( (string) preg_replace( '/\s+/', ' ', $sql ), 0, 200 ), self::$asked[1], self::$asked[2] );
			}
		}
	}

	/** A field of contents, terms or people is registered: what it is to be cleaned and guarded by. */
	public static function field( $given, $defaults, $type, $key ) {
		$place = Guard::outside( debug_backtrace( DEBUG_BACKTRACE_IGNORE_ARGS, 30 ) );
		if ( $place[0] && is_array( $given ) ) {
			$calls = array_intersect_key( $given, array( 'sanitize_callback' => 1, 'auth_callback' => 1 ) );
			self::$made['register_meta_args'][] = array( 'file' => $place[0], 'line' => $place[1], 'name' => (string) $key, 'calls' => array_filter( $calls ) );
		}
		return $given;
	}

	/** A function says that it is called wrongly; whoever calls it is kept. */
	public static function wrong( $function, $message ): void {
		if ( Guard::$made_up && ( 'wpdb::prepare' !== $function || ! str_contains( (string) $message, 'number of placeholders' ) ) ) {
			return; // it may come of the values
		}
		$place = Guard::outside( debug_backtrace( DEBUG_BACKTRACE_IGNORE_ARGS, 30 ) );
		if ( Guard::in_module( $place[0] ) ) {
			self::$wrong[] = array( (string) $function, wp_strip_all_tags( (string) $message ), ...$place );
		}
	}

	/** What a registration was called with, and the line of the module that made it. */
	private static function made( string $hook, array $given ): void {
		$place = Guard::outside( debug_backtrace( DEBUG_BACKTRACE_IGNORE_ARGS, 30 ) );
		if ( ! $place[0] ) {
			return;
		}
		$told = array( 'file' => $place[0], 'line' => $place[1], 'name' => is_scalar( $given[0] ) ? (string) $given[0] : '' );
		if ( 'register_setting' === $hook ) {
			$told += array( 'option' => (string) $given[1], 'cleans' => self::callable_or_empty( $given[2]['sanitize_callback'] ?? '' ) );
		} elseif ( 'load_textdomain' === $hook ) {
			$told += array( 'catalogue' => (string) $given[1] );
		}
		self::$made[ $hook ][] = $told;
	}

	private static function callable_or_empty( $callback ): string {
		is_callable( $callback, false, $name );
		return '' === $callback || null === $callback || is_callable( $callback ) ? '' : (string) $name;
	}

	/**
	 * A function that does what another does, and tells when that one loses or prints the value of a filter.
	 *
	 * It stands in the other's place for one call only: code that looks at what hangs on a hook must not find it there.
	 */
	private static function around( $function, array $place, \WP_Hook $holder, int $priority, string|int $key ): \Closure {
		$watched = static function ( ...$given ) use ( $function, $place, $holder, $priority, $key ) {
			if ( isset( $holder->callbacks[ $priority ][ $key ] ) ) {
				$holder->callbacks[ $priority ][ $key ]['function'] = $function;
			}
			$hook   = (string) current_filter();
			$level  = ob_get_level();
			$length = (int) ob_get_length();
			$result = call_user_func_array( $function, $given );
			if ( ! $given || ! $given[0] || did_action( $hook ) ) {
				return $result;
			}
			if ( null === $result ) {
				self::$filters[] = array( 'nothing', $hook, '', ...$place );
			} elseif ( ! Guard::$made_up && $level && ob_get_level() === $level && (int) ob_get_length() > $length ) {
				self::$filters[] = array( 'prints', $hook, substr( (string) ob_get_contents(), $length, 120 ), ...$place );
			}
			return $result;
		};
		self::$watched[ $watched ] = $function;
		return $watched;
	}

	private static function by_reference( \ReflectionFunctionAbstract $mirror ): bool {
		foreach ( $mirror->getParameters() as $parameter ) {
			if ( $parameter->isPassedByReference() ) {
				return true;
			}
		}
		return false;
	}

	/** Whether a refusal only follows from a change of tables that was kept from the database here. */
	private static function follows( string $sql, string $error ): bool {
		if ( str_contains( $error, "Can't reopen table" ) ) {
			return true;
		}
		foreach ( self::$swallowed as $kept ) {
			if ( preg_match( '/\b(?:table|on)\s+(?:if\s+(?:not\s+)?exists\s+)?`?(\w+)/i', $kept, $named ) && str_contains( $sql, $named[1] ) ) {
				return true;
			}
		}
		return false;
	}
}
