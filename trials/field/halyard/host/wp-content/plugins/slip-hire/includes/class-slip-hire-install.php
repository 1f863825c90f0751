<?php
class Slip_Hire_Install {
	public static function activate() {
		global $wpdb;
		require_once ABSPATH . 'wp-admin/includes/upgrade.php';
		$table   = slip_hire_table();
		$charset = $wpdb->get_charset_collate();
		dbDelta( "CREATE TABLE {$table} (
			id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
			slip_id bigint(20) unsigned NOT NULL,
			boat varchar(100) NOT NULL DEFAULT '',
			starts date NOT NULL,
			days smallint(5) NOT NULL DEFAULT 1,
			PRIMARY KEY  (id),
			KEY slip_id (slip_id)
		) {$charset};" );
		add_role( 'slip_master', __( 'Slip master', 'slip-hire' ), array( 'read' => true, 'manage_slips' => true ) );
		$role = get_role( 'administrator' );
		$role->add_cap( 'manage_slips' );
		add_option( 'slip_hire_options', array( 'price' => 25 ) );
		if ( ! wp_next_scheduled( 'slip_hire_nightly' ) ) {
			wp_schedule_event( time(), 'daily', 'slip_hire_nightly' );
		}
		Slip_Hire_Types::register();
		flush_rewrite_rules();
	}

	public static function deactivate() {
		wp_clear_scheduled_hook( 'slip_hire_nightly' );
		flush_rewrite_rules();
	}
}
