<?php

namespace Brindle\KeepersLog;

class Entries {

	public function __construct( private \wpdb $db ) {}

	public static function install(): void {
		global $wpdb;
		require_once ABSPATH . 'wp-admin/includes/upgrade.php';
		\dbDelta(
			"CREATE TABLE {$wpdb->prefix}keepers_entries (
				id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
				words text NOT NULL,
				at datetime NOT NULL,
				PRIMARY KEY  (id)
			) {$wpdb->get_charset_collate()};"
		);
		add_role( 'keeper', __( 'Lighthouse keeper', 'keepers-log' ), array( 'read' => true, Log::READ => true ) );
		get_role( 'administrator' )->add_cap( Log::READ );
	}

	public function last(): ?object {
		return $this->all( 1 )[0] ?? null;
	}

	/** @return object[] */
	public function all( int $most = 20 ): array {
		return $this->db->get_results( $this->db->prepare( "SELECT words, at FROM {$this->db->prefix}keepers_entries ORDER BY at DESC LIMIT %d", $most ) );
	}

	public function write( string $words ): int {
		$this->db->insert( $this->db->prefix . 'keepers_entries', array( 'words' => $words, 'at' => current_time( 'mysql' ) ) );
		return (int) $this->db->insert_id;
	}
}
