<?php
/** Asks the loaded host one thing after another; what one of them breaks on is told, and the others are asked. */

namespace SwiftSprout;

/** Answer each step under its name, or those named only. */
function answer_steps( array $steps, array $only ): void {
	Guard::$booted = true;
	answer( array( 'booted' => true ) );
	foreach ( $steps as $name => $step ) {
		if ( $only && ! in_array( $name, $only, true ) ) {
			continue;
		}
		answer( array( 'step' => $name ) ); // what is asked when the run ends early
		try {
			answer( array( $name => $step() ) );
		} catch ( \Throwable $thrown ) {
			$place = array( $thrown->getFile(), $thrown->getLine() );
			answer( array( 'failed' => array( $name => array( $thrown->getMessage(), ...$place ) ) ) );
		}
	}
	answer( array( 'finished' => true ) );
}
