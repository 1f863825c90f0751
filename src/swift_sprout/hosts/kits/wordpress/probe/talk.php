<?php
/** What all scripts share: the question that was asked, and how to answer it. */

namespace SwiftSprout;

/** The question, as it was written for this run. */
function question(): array {
	static $asked = null;
	return $asked ??= json_decode( file_get_contents( getenv( 'SPROUT_QUESTION' ) ), true );
}

/** Answer; whatever the host prints does not get in between. */
function answer( array $answers ): void {
	static $file = null; // opened before anything stands between us and the disk
	$file ??= fopen( preg_replace( '/\.json$/', '.answers', getenv( 'SPROUT_QUESTION' ) ), 'a' );
	$text   = json_encode( $answers, JSON_INVALID_UTF8_SUBSTITUTE | JSON_PARTIAL_OUTPUT_ON_ERROR | JSON_UNESCAPED_SLASHES );
	fwrite( $file, $text . "\n" );
}

require_once __DIR__ . '/sandbox.php';
