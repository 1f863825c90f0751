<?php
/** What modules' code asks of the host by name, and the host does not have. */

namespace SwiftSprout;

final class Asked {
	private const MOST_TABLES = 80;
	private const LONG        = 10;

	/** Functions that do not exist anywhere, each with the nearest that does; empty for none near. */
	public static function functions( array $names ): array {
		$absent = array_values( array_filter( $names, static fn( $name ) => ! function_exists( $name ) ) );
		$known  = $absent ? array_merge( ...array_values( get_defined_functions() ) ) : array();
		$found  = array();
		foreach ( $absent as $name ) {
			$near = self::near( $name, $known );
			if ( ! self::is_written( $name ) ) {
				$found[ $name ] = $near;
			}
		}
		return $found;
	}

	/** Methods and properties that the host's database object does not have, each with the nearest that it has. */
	public static function database( array $methods, array $properties ): array {
		global $wpdb;
		$found = array();
		foreach ( $methods as $name ) {
			if ( ! method_exists( $wpdb, $name ) && ! method_exists( $wpdb, '__call' ) ) {
				$found[ "$name()" ] = self::near( strtolower( $name ), array_map( 'strtolower', get_class_methods( $wpdb ) ) );
			}
		}
		foreach ( $properties as $name ) {
			if ( ! property_exists( $wpdb, $name ) && ! isset( $wpdb->$name ) ) {
				$near = self::near( $name, array_merge( array_keys( get_class_vars( get_class( $wpdb ) ) ), array_keys( get_object_vars( $wpdb ) ) ) );
				if ( '' !== $near ) { // others may be set by whoever wants them
					$found[ $name ] = $near;
				}
			}
		}
		return $found;
	}

	/** The columns of the tables that are not the host's own, without the host's prefix. */
	public static function columns(): array {
		global $wpdb;
		$found = array();
		$own   = array_merge( $wpdb->tables( 'all', false ), array( 'blogs', 'blogmeta', 'site', 'sitemeta', 'signups', 'registration_log' ) );
		foreach ( array_slice( array_diff( Shapes::tables(), $own ), 0, self::MOST_TABLES ) as $name ) {
			$found[ $name ] = $wpdb->get_col( "SHOW COLUMNS FROM `{$wpdb->prefix}{$name}`" );
		}
		return $found;
	}

	private static function near( string $name, array $known ): string {
		$best  = '';
		$least = min( 3, max( 1, intdiv( strlen( $name ), 4 ) ) );
		foreach ( $known as $one ) {
			$apart = abs( strlen( $one ) - strlen( $name ) ) < $least ? levenshtein( $name, $one ) : $least;
			if ( $apart < $least ) {
				list( $best, $least ) = array( $one, $apart );
			}
		}
		foreach ( '' === $best ? $known : array() as $one ) { // one of them goes on where the other ends
			if ( strlen( $one ) >= self::LONG && ( str_starts_with( $name, $one ) || str_starts_with( $one, $name ) ) && abs( strlen( $one ) - strlen( $name ) ) < 5 ) {
				return $one;
			}
		}
		return $best;
	}

	/** Whether a file of the host that is loaded on demand defines a function. */
	private static function is_written( string $name ): bool {
		foreach ( array( 'wp-admin/includes', 'wp-includes' ) as $folder ) {
			foreach ( glob( ABSPATH . "$folder/*.php" ) as $file ) {
				if ( preg_match( '/\bfunction\s+&?' . preg_quote( $name, '/' ) . '\s*\(/i', (string) file_get_contents( $file ) ) ) {
					return true;
				}
			}
		}
		return false;
	}
}
