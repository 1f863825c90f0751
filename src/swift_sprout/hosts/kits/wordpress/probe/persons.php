<?php
/**
 * Lets a request be made as somebody who holds just some roles, without a user of that sort in the database.
 *
 * Works only in the server of a check, for requests that know its secret.
 */

namespace SwiftSprout;

final class Persons {
	public static array $wanted = array();
	private static array $roles = array();

	/** Take the person that the request names. */
	public static function begin(): void {
		$secret = (string) getenv( 'SPROUT_SECRET' );
		$given  = (string) ( $_SERVER['HTTP_X_SPROUT_PERSON'] ?? '' );
		if ( '' === $secret || ! str_starts_with( $given, $secret . ':' ) ) {
			return;
		}
		self::be( explode( ',', substr( $given, strlen( $secret ) + 1 ) ) );
		require_once __DIR__ . '/signing_in.php';
	}

	/** Be somebody who holds roles; ``everything`` is whoever may do all. */
	public static function be( array $roles ): void {
		self::$roles = $roles;
		Guard::hook( 'determine_current_user', array( self::class, 'number' ), 1, PHP_INT_MAX );
		Guard::hook( 'user_has_cap', array( self::class, 'capabilities' ), 4, PHP_INT_MIN ); // before modules add theirs
	}

	/** Which user it is for the host: the first one. */
	public static function number(): int {
		global $wpdb;
		return (int) $wpdb->get_var( "SELECT ID FROM {$wpdb->users} ORDER BY ID LIMIT 1" );
	}

	/** What the person may do: what the roles hold. */
	public static function capabilities( array $held, array $wanted ): array {
		$found = array();
		$place = Guard::outside( debug_backtrace( DEBUG_BACKTRACE_IGNORE_ARGS, 12 ) );
		foreach ( Guard::in_module( $place[0] ) ? $wanted : array() as $right ) {
			self::$wanted[ $right ] ??= $place;
		}
		foreach ( self::$roles as $role ) {
			$known  = wp_roles()->roles[ 'everything' === $role ? 'administrator' : $role ]['capabilities'] ?? array();
			$found += array_filter( $known ) + array( $role => true );
		}
		return $found;
	}
}
