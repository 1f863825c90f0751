<?php
/** Compiles every PHP file that is named, in one process, and tells which do not compile, where and why. */

namespace SwiftSprout;

require __DIR__ . '/talk.php';

( static function (): void {
	$wrong = array();
	$log   = tempnam( sys_get_temp_dir(), 'sprout' );
	ini_set( 'log_errors', '1' );
	ini_set( 'error_log', $log );
	foreach ( question()['files'] as $file ) {
		try {
			if ( @opcache_compile_file( $file ) ) {
				continue;
			}
			preg_match_all( '/PHP Fatal error:\s+(.*) in .* on line (\d+)/', (string) file_get_contents( $log ), $said );
			$reason = (string) end( $said[1] );
			if ( preg_match( '/previously declared in (.+):\d+\)/', $reason, $other ) && $other[1] !== $file ) {
				continue; // in another file: only where both are loaded
			}
			$wrong[ $file ] = array( (int) end( $said[2] ), $reason );
		} catch ( \Throwable $thrown ) {
			$wrong[ $file ] = array( $thrown->getLine(), $thrown->getMessage() );
		}
	}
	unlink( $log );
	answer( array( 'compiled' => true, 'wrong' => $wrong ) );
} )();
