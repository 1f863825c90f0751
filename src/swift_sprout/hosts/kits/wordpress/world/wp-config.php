<?php
/** The configuration of the Brindle Quay site. Its database server listens on a socket in this folder only. */

define( 'DB_NAME', 'brindle_quay' );
define( 'DB_USER', 'root' );
define( 'DB_PASSWORD', '' );
define( 'DB_HOST', 'localhost:' . __DIR__ . '/database/socket' );
define( 'DB_CHARSET', 'utf8mb4' );
define( 'DB_COLLATE', '' );

/* secrets */

$table_prefix = 'bq_';

define( 'WP_DEBUG', true );
define( 'WP_DEBUG_DISPLAY', false );
define( 'WP_DEBUG_LOG', __DIR__ . '/wp-content/debug.log' );
define( 'FS_METHOD', 'direct' );
define( 'AUTOMATIC_UPDATER_DISABLED', true );
define( 'WP_HTTP_BLOCK_EXTERNAL', true );

// the site answers under whatever loopback port it is served on
if ( isset( $_SERVER['HTTP_HOST'] ) && preg_match( '/^(127\.0\.0\.1|localhost)(:\d+)?$/', $_SERVER['HTTP_HOST'] ) ) {
	define( 'WP_HOME', 'http://' . $_SERVER['HTTP_HOST'] );
	define( 'WP_SITEURL', WP_HOME );
}

if ( ! defined( 'ABSPATH' ) ) {
	define( 'ABSPATH', __DIR__ . '/' );
}
require_once ABSPATH . 'wp-settings.php';
