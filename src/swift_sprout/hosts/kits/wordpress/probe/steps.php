<?php
/** Asks the loaded host one thing after another; what one of them breaks on is told, and the others are asked. */

namespace SwiftSprout;

/** Steps that make up rows; a run that goes on where another ended does them again. */
const MAKE_UP = array( 'made_up', 'made_up_there', 'terms', 'terms_there' );

/** Answer each step under its name, or those named only; or those from one on, where a run before it ended. */
function answer_steps( array $steps, array $only ): void {
	Guard::$booted = true;
	answer( array( 'booted' => true ) );
	$from = question()['from'] ?? '';
	foreach ( $steps as $name => $step ) {
		$from = $from === $name ? '' : $from;
		if ( ( $only && ! in_array( $name, $only, true ) ) || ( $from && ! in_array( $name, MAKE_UP, true ) ) ) {
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
