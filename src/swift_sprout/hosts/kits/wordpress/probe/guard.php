<?php
/**
 * Stands before the host while it is only asked: nothing that a module does then stays.
 *
 * All that is written to the database is taken back, tables are not changed, no mail is sent, nobody outside is asked;
 * what went wrong on the way is told. It hangs on the host's own hooks, which may be filled before the host is loaded.
 */

namespace SwiftSprout;

require_once __DIR__ . '/talk.php';
require_once __DIR__ . '/watch.php';

/** What happened during one request or run, told at its end. */
final class Guard {
	/** What PHP and the database say of code that is wrong whatever the values are. */
	public const OF_CODE = '/^Undefined (?:variable|constant|property: stdClass)|^Unknown column|doesn\'t exist|error in your SQL syntax/';

	public static array $problems   = array();
	public static array $output     = array();
	public static array $statements = array();
	public static array $template   = array();
	private static array $areas     = array();
	public static array $fatal      = array();
	public static string $loading   = '';
	public static bool $booted      = false;
	public static bool $made_up     = false; // whether what is done now is done with values that are made up
	public static ?array $anew      = null; // tables that are to look absent, while a module is installed as on a new site
	public static array $created    = array();
	private static array $early     = array();
	private static array $first     = array();
	private static int $level       = 0;
	private static array $redirect  = array();
	private static ?\mysqli $asked  = null;
	private static int $printed     = 0;

	/** Stand before the host; what is left out is not loaded, what is brought in is loaded although it is off. */
	public static function begin( array $left_out = array(), array $brought_in = array() ): void {
		if ( getenv( 'SPROUT_LOG' ) ) { // a page: what prints before it begins is told
			self::$level = ob_get_level();
			ob_start( array( self::class, 'printing' ), 1 );
		}
		set_error_handler( array( self::class, 'problem' ) );
		set_exception_handler( array( self::class, 'thrown' ) );
		register_shutdown_function( array( self::class, 'ended' ) );
		Watch::begin();
		self::hook( 'query', array( self::class, 'statement' ), 1 );
		self::hook( 'pre_http_request', static fn() => new \WP_Error( 'not-asked', 'nobody outside is asked' ), 1 );
		self::hook( 'pre_wp_mail', static fn() => true, 1 );
		self::hook( 'flush_rewrite_rules_hard', static fn() => false, 1, PHP_INT_MAX );
		self::hook( 'wp_fatal_error_handler_enabled', static fn() => false, 1 );
		self::hook( 'wp_redirect', array( self::class, 'redirected' ), 1 );
		self::hook( 'plugin_loaded', array( self::class, 'loaded' ), 1 );
		self::hook( 'template_include', array( self::class, 'template' ), 1, PHP_INT_MAX );
		self::hook( 'dynamic_sidebar_before', array( self::class, 'area' ), 1 );
		$chosen = static function ( $active ) use ( $left_out, $brought_in ) {
			$kept = array_diff( (array) $active, $left_out );
			return array_values( array_unique( array_merge( $kept, $brought_in ) ) );
		};
		self::hook( 'option_active_plugins', $chosen, 1 );
	}

	/** Hang a function on one of the host's hooks before the host is there. */
	public static function hook( string $name, callable $function, int $arguments, int $priority = 10 ): void {
		$GLOBALS['wp_filter'][ $name ][ $priority ][] = array(
			'accepted_args' => $arguments,
			'function'      => $function,
		);
	}

	/** Something is printed: where that was the first time is kept. */
	public static function printing( string $text ): string {
		if ( ! self::$first && '' !== trim( $text ) ) {
			self::$first = self::outside( debug_backtrace( DEBUG_BACKTRACE_IGNORE_ARGS, 30 ) );
		}
		return $text;
	}

	/**
	 * All that is asked of the database stands in a transaction that is never committed.
	 *
	 * Not one that was begun by a statement: the database rolls that back by itself after a deadlock, and what comes
	 * then would stay.
	 */
	public static function statement( string $sql ): string {
		global $wpdb;
		if ( $wpdb->dbh instanceof \mysqli && self::$asked !== $wpdb->dbh ) { // the host may connect again
			self::$asked = $wpdb->dbh;
			mysqli_autocommit( $wpdb->dbh, false );
		}
		if ( preg_match( '/^\s*(begin|start|commit|rollback|set\s+(session\s+|@@(session\.)?)?autocommit)\b/i', $sql ) ) {
			return 'SELECT 1'; // a transaction of a module's own would commit this one
		}
		if ( null !== self::$anew && self::looks_absent( $sql ) ) {
			return 'SELECT 1 FROM DUAL WHERE 1 = 0';
		}
		$changes = 1 === preg_match( '/^\s*(create|alter|drop|truncate|rename|lock|unlock|optimize|analyze|flush|grant|revoke)\b/i', $sql );
		$passing = $changes ? self::passing( $sql ) : $sql;
		Watch::asked( $sql, null === $passing );
		if ( $changes ) {
			self::$statements[] = substr( $sql, 0, 400 );
		}
		return $passing ?? 'SELECT 1';
	}

	/** A new table as one that is gone when this run ends: the database judges the statement. Null for all else. */
	private static function passing( string $sql ): ?string {
		global $wpdb;
		if ( ! preg_match( '/^\s*create\s+table\s+(?:if\s+not\s+exists\s+)?`?(\w+)/i', $sql, $named ) ) {
			return null;
		}
		$there = null === self::$anew ? mysqli_query( $wpdb->dbh, "SHOW TABLES LIKE '" . addcslashes( $named[1], '_%' ) . "'" ) : false;
		if ( $there && $there->num_rows ) {
			return null;
		}
		self::$created[ $named[1] ] = self::outside( debug_backtrace( DEBUG_BACKTRACE_IGNORE_ARGS, 30 ) );
		return preg_replace( '/^\s*create\s+table/i', 'CREATE TEMPORARY TABLE', $sql ); // which hides one of that name
	}

	/** Whether a statement asks after a table that is to look absent and was not made again yet. */
	private static function looks_absent( string $sql ): bool {
		$asks = preg_match( '/^\s*(?:desc(?:ribe)?|show\s+(?:full\s+)?(?:columns|fields|index(?:es)?|tables)(?:\s+(?:from|in|like))?)\s+[`\'"]?([\w\\\\]+)/i', $sql, $named );
		$name = $asks ? stripslashes( $named[1] ) : '';
		return in_array( $name, self::$anew, true ) && ! isset( self::$created[ $name ] );
	}

	/** A warning or notice. */
	public static function problem( int $sort, string $message, string $file, int $line ): bool {
		if ( str_contains( $message, 'already defined' ) && str_ends_with( $file, 'wp-config.php' ) ) {
			return true;
		}
		if ( self::$made_up && ! preg_match( self::OF_CODE, $message ) ) {
			return true; // it may come of the values
		}
		if ( ! self::in_host( $file ) ) {
			self::$problems[] = array( $sort, $message, $file, $line );
		} elseif ( E_USER_NOTICE === $sort || E_USER_WARNING === $sort || E_USER_DEPRECATED === $sort ) {
			$place            = self::outside( debug_backtrace( DEBUG_BACKTRACE_IGNORE_ARGS, 30 ) );
			self::$problems[] = array( $sort, $message, $place[0], $place[1] );
		}
		return true;
	}

	/** Where something was thrown; a call with wrong arguments is where a module's code makes it. */
	public static function place_of( \Throwable $thrown ): array {
		if ( $thrown instanceof \TypeError && preg_match( '/called in (.+) on line (\d+)/', $thrown->getMessage(), $caller ) && self::in_module( $caller[1] ) ) {
			return array( $caller[1], (int) $caller[2] );
		}
		return array( $thrown->getFile(), $thrown->getLine() );
	}

	/** Something was thrown that nobody caught. */
	public static function thrown( \Throwable $thrown ): void {
		$place = self::place_of( $thrown );
		if ( self::in_host( $place[0] ) ) {
			$found = self::outside( $thrown->getTrace() );
			$place = $found[0] ? $found : $place;
		}
		self::$fatal = array( get_class( $thrown ), $thrown->getMessage(), $place[0], $place[1], self::$loading );
		if ( ! headers_sent() ) {
			header( 'HTTP/1.1 500 Internal Server Error', true, 500 );
		}
	}

	/** The end, however it came. */
	public static function ended(): void {
		$last = error_get_last();
		if ( $last && ! self::$fatal && ( $last['type'] & ( E_ERROR | E_PARSE | E_CORE_ERROR | E_COMPILE_ERROR ) ) ) {
			self::$fatal = array( 'fatal error', $last['message'], $last['file'], $last['line'], self::$loading );
		}
		if ( ! self::$fatal && ! self::$booted && ! getenv( 'SPROUT_LOG' ) ) {
			self::$fatal = self::left();
		}
		self::tell();
	}

	/** What ended the run before the host was loaded, without a word: the file of a module that was taken in last. */
	private static function left(): array {
		$files = get_included_files();
		$file  = (string) end( $files );
		$lines = self::in_module( $file ) ? preg_grep( '/\b(exit|die)\b/', (array) file( $file ) ) : array();
		$said  = 'the host ends while this file is loaded';
		return $lines ? array( 'exit', $said, $file, key( $lines ) + 1, self::$loading ) : array();
	}

	/** Where what happened is told. */
	public static function tell(): void {
		$log = getenv( 'SPROUT_LOG' );
		if ( ! $log ) {
			answer( array( 'guard' => self::told() ) );
			return;
		}
		$request = array(
			'uri'      => $_SERVER['REQUEST_URI'] ?? '',
			'id'       => $_SERVER['HTTP_X_SPROUT_REQUEST'] ?? '',
			'template' => self::$template,
			'areas'    => array_keys( self::$areas ),
			'footer'   => function_exists( 'did_action' ) ? did_action( 'wp_footer' ) : 0,
			'database' => self::lost(),
		);
		file_put_contents( $log, json_encode( $request + self::told(), JSON_INVALID_UTF8_SUBSTITUTE ) . "\n", FILE_APPEND | LOCK_EX );
	}

	/** What the database said where the host died for want of it; empty for all else. */
	private static function lost(): string {
		global $wpdb;
		if ( self::$template || self::$fatal || http_response_code() < 500 ) {
			return '';
		}
		$said = mysqli_connect_error(); // of the last time that the host connected
		if ( $said || ( function_exists( 'did_action' ) && did_action( 'init' ) ) ) {
			return (string) $said;
		}
		return (string) ( $wpdb->last_error ?? '' );
	}

	/** What happened. */
	public static function told(): array {
		Watch::failures();
		return array(
			'problems'   => array_slice( array_values( array_unique( self::$problems, SORT_REGULAR ) ), 0, 200 ),
			'output'     => self::$output,
			'statements' => array_slice( self::$statements, 0, 50 ),
			'fatal'      => self::$fatal,
			'filters'    => array_slice( array_values( array_unique( Watch::$filters, SORT_REGULAR ) ), 0, 50 ),
			'failures'   => array_slice( array_values( array_unique( Watch::$failures, SORT_REGULAR ) ), 0, 50 ),
			'wrong'      => array_slice( array_values( array_unique( Watch::$wrong, SORT_REGULAR ) ), 0, 50 ),
			'early'      => self::$early,
			'redirect'   => self::$redirect,
			'wanted'     => class_exists( Persons::class, false ) ? Persons::$wanted : array(),
		);
	}

	/** A module was loaded: did it print something? */
	public static function loaded( string $path ): void {
		$file          = plugin_basename( $path );
		self::$loading = $file;
		if ( ! getenv( 'SPROUT_LOG' ) ) {
			answer( array( 'loaded' => $file ) ); // told at once: a module after it may never come to its end
		}
		$now           = ob_get_level() ? ob_get_length() : 0;
		if ( $now > self::$printed ) {
			self::$output[ $file ] = substr( ob_get_contents(), self::$printed, 200 );
		}
		self::$printed = $now;
	}

	/** Somebody leads elsewhere. */
	public static function redirected( $to ) {
		self::$redirect = self::outside( debug_backtrace( DEBUG_BACKTRACE_IGNORE_ARGS, 30 ) );
		return $to;
	}

	/** An area of the theme is drawn. */
	public static function area( $name ): void {
		self::$areas[ (string) $name ] = true;
	}

	/** The template that draws the page, and the rule that led to it. */
	public static function template( $template ) {
		global $wp;
		self::$early = self::$first;
		if ( getenv( 'SPROUT_LOG' ) && ob_get_level() > self::$level ) {
			ob_end_flush(); // the page itself is not looked at
		}
		self::$template = array( (string) $template, (string) ( $wp->matched_rule ?? '' ), (string) ( $wp->matched_query ?? '' ) );
		return $template;
	}

	/** Whether a file is one of the modules and themes of the host. */
	public static function in_module( string $file ): bool {
		return defined( 'WP_CONTENT_DIR' ) && str_starts_with( $file, WP_CONTENT_DIR . '/' );
	}

	private static function in_host( string $file ): bool {
		$root = defined( 'ABSPATH' ) ? ABSPATH : '';
		return str_starts_with( $file, $root . 'wp-includes/' ) || str_starts_with( $file, $root . 'wp-admin/' )
			|| str_starts_with( $file, __DIR__ ) || ( $root && dirname( $file ) . '/' === $root );
	}

	/** The first line of a trace that is neither the host's nor ours. */
	public static function outside( array $trace ): array {
		foreach ( $trace as $frame ) {
			if ( isset( $frame['file'] ) && ! self::in_host( $frame['file'] ) ) {
				return array( $frame['file'], $frame['line'] );
			}
		}
		return array( '', 0 );
	}
}
