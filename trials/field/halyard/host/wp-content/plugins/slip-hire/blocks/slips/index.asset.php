<?php return array( "dependencies" => array( "wp-blocks" ), "version" => "1" );
