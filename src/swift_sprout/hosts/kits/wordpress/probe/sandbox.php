<?php
/** Leads a copy of the host to a database server of its own. */

// a sandbox has a database server of its own: what the configuration says of another comes too late
if ( getenv( 'SPROUT_DB_SOCKET' ) ) {
	define( 'DB_HOST', 'localhost:' . getenv( 'SPROUT_DB_SOCKET' ) );
	define( 'DB_NAME', 'sandbox' );
	define( 'DB_USER', 'root' );
	define( 'DB_PASSWORD', '' );
}
