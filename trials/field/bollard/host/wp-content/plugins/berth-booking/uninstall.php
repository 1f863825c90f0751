<?php
defined( 'WP_UNINSTALL_PLUGIN' ) || exit;

global $wpdb;
$wpdb->query( "DROP TABLE IF EXISTS {$wpdb->prefix}bb_bookings" );
$wpdb->query( "DROP TABLE IF EXISTS {$wpdb->prefix}bb_notes" );
delete_option( 'bb_settings' );
delete_option( 'bb_db_version' );
delete_option( 'bb_page_id' );
remove_role( 'berth_clerk' );
