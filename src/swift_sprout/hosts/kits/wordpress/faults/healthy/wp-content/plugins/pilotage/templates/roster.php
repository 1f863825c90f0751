<?php

defined( 'ABSPATH' ) || exit;

get_header();
?>
<h1><?php esc_html_e( 'Pilots', 'pilotage' ); ?></h1>
<?php echo Pilotage_Roster::draw(); ?>
<?php
get_footer();
