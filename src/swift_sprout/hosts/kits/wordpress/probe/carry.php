<?php
/** Carries what the database keeps of a module over to its new name: tables, options, hooks, rights, rows' sorts. */

namespace SwiftSprout;

require __DIR__ . '/light.php';

$GLOBALS['wpdb']->suppress_errors( true );

/** The names that changed in the module's code, the longest first: what each was, and what it is now. */
function names(): array {
	static $names = null;
	if ( null === $names ) {
		$names = question()['names'];
		uksort( $names, static fn( $left, $right ) => strlen( $right ) - strlen( $left ) );
	}
	return $names;
}

/** A text with the names in it changed, where they stand as words of their own. */
function renamed( string $text ): string {
	foreach ( question()['held'] as $other ) {
		if ( str_contains( $text, $other ) ) {
			return $text; // another module's, whose name holds this one's
		}
	}
	$beside = question()['whole'] ? 'A-Za-z0-9_-' : 'A-Za-z0-9';
	$words  = array();
	foreach ( names() as $before => $_ ) {
		$end = in_array( substr( $before, -1 ), array( '_', '-' ), true ) ? '' : "(?![$beside])";
		// a bare word may as well be an option or a sort of contents: it is the module's where it is a part of a path
		$words[] = preg_quote( $before, '/' ) . ( question()['whole'] && ctype_alnum( $before ) ? '(?=[\/.])' : $end );
	}
	// in one go: a new name may hold an old one
	return $words ? preg_replace_callback( "/(?<![$beside])(?:" . implode( '|', $words ) . ')/', static fn( $found ) => names()[ $found[0] ], $text ) : $text;
}

/** A value of an option with the names in it changed, in keys as well; objects stay as they are. */
function renamed_value( $value ) {
	if ( is_string( $value ) ) {
		return renamed( $value );
	}
	if ( ! is_array( $value ) ) {
		return $value;
	}
	$found = array();
	foreach ( $value as $key => $one ) {
		$found[ is_string( $key ) ? renamed( $key ) : $key ] = renamed_value( $one );
	}
	return $found;
}

/** A stored value with the names in it changed: texts as they stand, arrays packed again. */
function renamed_stored( string $stored ): string {
	$value = @unserialize( $stored, array( 'allowed_classes' => false ) );
	if ( false === $value || str_contains( $stored, 'O:' ) ) {
		return is_array( $value ) || false !== $value ? $stored : renamed( $stored );
	}
	return is_array( $value ) ? serialize( renamed_value( $value ) ) : $stored;
}

/** Change one column of a table where it names the module; returns how many rows that were. */
function column( string $table, string $key, string $column, callable $change, string $where = '1' ): int {
	global $wpdb;
	$count = 0;
	$done  = array(); // a row may hold several names
	foreach ( names() as $before => $_ ) {
		$like = '%' . $wpdb->esc_like( $before ) . '%';
		$rows = $wpdb->get_results( $wpdb->prepare( "SELECT `$key` AS id, `$column` AS held FROM `$table` WHERE $where AND `$column` LIKE %s", $like ) );
		foreach ( (array) $rows as $row ) {
			$now = isset( $done[ $row->id ] ) ? $row->held : $change( (string) $row->held );
			$done[ $row->id ] = true;
			if ( $now !== $row->held ) {
				$wpdb->update( $table, array( $column => $now ), array( $key => $row->id ) );
				$count++;
			}
		}
	}
	return $count;
}

( static function (): void {
	global $wpdb, $table_prefix;
	$text   = static fn( string $held ): string => renamed( $held );
	$stored = static fn( string $held ): string => renamed_stored( $held );
	$done   = array();
	foreach ( $wpdb->get_col( "SHOW TABLES LIKE '" . $wpdb->esc_like( $table_prefix ) . "%'" ) as $table ) {
		$now = $table_prefix . renamed( substr( $table, strlen( $table_prefix ) ) );
		if ( $now !== $table && false !== $wpdb->query( "RENAME TABLE `$table` TO `$now`" ) ) {
			$done['tables'] = ( $done['tables'] ?? 0 ) + 1;
		}
	}
	$options = $wpdb->options ?? $table_prefix . 'options';
	$own     = "option_name IN ('active_plugins', 'cron', 'sidebars_widgets', 'recently_activated', 'uninstall_plugins', '{$table_prefix}user_roles')";
	foreach ( names() as $before => $_ ) {
		$own .= $wpdb->prepare( ' OR option_name LIKE %s', '%' . $wpdb->esc_like( $before ) . '%' );
	}
	$done['options'] = column( $options, 'option_id', 'option_value', $stored, "($own)" ) + column( $options, 'option_id', 'option_name', $text );
	$done['rights']  = column( $table_prefix . 'usermeta', 'umeta_id', 'meta_value', $stored, "meta_key = '{$table_prefix}capabilities'" );
	foreach ( array( 'usermeta' => 'umeta_id', 'postmeta' => 'meta_id', 'termmeta' => 'meta_id', 'commentmeta' => 'meta_id' ) as $table => $key ) {
		$done['fields'] = ( $done['fields'] ?? 0 ) + column( $table_prefix . $table, $key, 'meta_key', $text );
	}
	$done['contents'] = column( $table_prefix . 'posts', 'ID', 'post_type', $text )
		+ column( $table_prefix . 'term_taxonomy', 'term_taxonomy_id', 'taxonomy', $text )
		+ column( $table_prefix . 'posts', 'ID', 'post_content', static fn( string $held ): string => preg_replace_callback( '~\[/?[\w-]+|<!-- /?wp:[\w/-]+|wp-block-[\w-]+~', static fn( $found ) => renamed( $found[0] ), $held ) );
	$wpdb->query( "DELETE FROM `$options` WHERE option_name = 'rewrite_rules'" );
	answer( array( 'done' => array_filter( $done ) ) );
} )();
