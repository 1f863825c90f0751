<?php
defined( 'ABSPATH' ) || exit;

class BB_Install {

	const DB_VERSION = '3';

	public static function init() {
		add_action( 'init', array( __CLASS__, 'check_version' ), 5 );
		add_filter( 'plugin_action_links_' . plugin_basename( BERTH_BOOKING_FILE ), array( __CLASS__, 'action_links' ) );
	}

	public static function check_version() {
		if ( get_option( 'bb_db_version' ) !== self::DB_VERSION ) {
			self::create_tables();
			update_option( 'bb_db_version', self::DB_VERSION );
		}
	}

	public static function install() {
		BB_Post_Types::register_post_types();
		BB_Post_Types::register_taxonomies();
		self::create_tables();
		self::create_roles();
		self::create_pages();
		BB_Cron::schedule();
		update_option( 'bb_db_version', self::DB_VERSION );
		flush_rewrite_rules();
	}

	public static function deactivate() {
		wp_clear_scheduled_hook( 'bb_remind' );
		wp_clear_scheduled_hook( 'bb_expire' );
		flush_rewrite_rules();
	}

	private static function create_tables() {
		global $wpdb;
		require_once ABSPATH . 'wp-admin/includes/upgrade.php';
		dbDelta( self::get_schema() );
	}

	private static function get_schema() {
		global $wpdb;
		$collate = $wpdb->has_cap( 'collation' ) ? $wpdb->get_charset_collate() : '';
		return "
CREATE TABLE {$wpdb->prefix}bb_bookings (
  booking_id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  berth_id bigint(20) unsigned NOT NULL,
  boat varchar(120) NOT NULL DEFAULT '',
  skipper varchar(120) NOT NULL DEFAULT '',
  email varchar(200) NOT NULL DEFAULT '',
  length_m decimal(5,1) NOT NULL DEFAULT 0,
  arrives date NOT NULL,
  nights smallint(4) NOT NULL DEFAULT 1,
  status varchar(20) NOT NULL DEFAULT 'asked',
  created datetime NOT NULL,
  PRIMARY KEY  (booking_id),
  KEY berth_id (berth_id),
  KEY status (status)
) $collate;
CREATE TABLE {$wpdb->prefix}bb_notes (
  note_id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  booking_id bigint(20) unsigned NOT NULL,
  note text NOT NULL,
  PRIMARY KEY  (note_id),
  KEY booking_id (booking_id)
) $collate;";
	}

	private static function create_roles() {
		add_role(
			'berth_clerk',
			__( 'Berth clerk', 'berth-booking' ),
			array(
				'read'            => true,
				'manage_berths'   => true,
				'edit_posts'      => true,
				'upload_files'    => true,
			)
		);
		$administrator = get_role( 'administrator' );
		$administrator->add_cap( 'manage_berths' );
	}

	private static function create_pages() {
		if ( get_option( 'bb_page_id' ) && get_post( get_option( 'bb_page_id' ) ) ) {
			return;
		}
		$page = wp_insert_post(
			array(
				'post_type'    => 'page',
				'post_status'  => 'publish',
				'post_title'   => __( 'Ask for a berth', 'berth-booking' ),
				'post_name'    => 'ask-for-a-berth',
				'post_content' => '[berth_booking_form]',
			)
		);
		update_option( 'bb_page_id', $page );
	}

	public static function action_links( $links ) {
		$own = array(
			'settings' => '<a href="' . esc_url( admin_url( 'admin.php?page=bb-settings' ) ) . '">' . esc_html__( 'Settings', 'berth-booking' ) . '</a>',
		);
		return array_merge( $own, $links );
	}
}

BB_Install::init();
