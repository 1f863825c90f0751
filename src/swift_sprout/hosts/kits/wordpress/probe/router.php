<?php
/** Leads the requests of PHP's own server as a web server would: files that are there, and the host for all else. */

namespace SwiftSprout;

$sprout_root = rtrim( $_SERVER['DOCUMENT_ROOT'], '/' );
$sprout_path = rawurldecode( (string) parse_url( $_SERVER['REQUEST_URI'], PHP_URL_PATH ) );
$sprout_file = realpath( $sprout_root . $sprout_path );
if ( $sprout_file && is_dir( $sprout_file ) && is_file( $sprout_file . '/index.php' ) && '/' !== $sprout_path ) {
	$sprout_file .= '/index.php';
}
$sprout_inside = $sprout_file && str_starts_with( $sprout_file, $sprout_root . '/' ) && is_file( $sprout_file );
if ( $sprout_inside && ! str_ends_with( $sprout_file, '.php' ) ) {
	return preg_match( '#^/(wp-config|database|admin-password)#', $sprout_path ) ? ( http_response_code( 404 ) && print 'Not found.' ) : false;
}
if ( ! $sprout_inside ) {
	$sprout_file = $sprout_root . '/index.php';
}
if ( getenv( 'SPROUT_LOG' ) ) {
	require_once __DIR__ . '/guard.php';
	require_once __DIR__ . '/persons.php';
	Guard::begin( explode( ':', (string) getenv( 'SPROUT_WITHOUT' ) ) );
	Persons::begin();
}
$_SERVER['SCRIPT_FILENAME'] = $sprout_file;
$_SERVER['SCRIPT_NAME']     = substr( $sprout_file, strlen( $sprout_root ) );
$_SERVER['PHP_SELF']        = $_SERVER['SCRIPT_NAME'];
chdir( dirname( $sprout_file ) );
require $sprout_file;
