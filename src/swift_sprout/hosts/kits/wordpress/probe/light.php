<?php
/** Loads only the host's way to its database: no module, no theme. */

namespace SwiftSprout;

require __DIR__ . '/talk.php';

define( 'SHORTINIT', true );
$_SERVER['HTTP_HOST'] ??= '127.0.0.1';
require question()['root'] . '/wp-load.php';
