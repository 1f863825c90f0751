<?php
/** The timetable. */

defined( 'ABSPATH' ) || exit;

get_header();
?>
<h1><?php esc_html_e( 'Ferries', 'ferries' ); ?></h1>
<p><?php esc_html_e( 'The quay ferry leaves on the hour, and returns on the half.', 'ferries' ); ?></p>
<?php
get_footer();
