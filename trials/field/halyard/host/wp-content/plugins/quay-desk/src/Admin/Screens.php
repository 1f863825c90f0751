<?php
namespace BrindleQuay\QuayDesk\Admin;

use BrindleQuay\QuayDesk\Loader;
use BrindleQuay\QuayDesk\Plugin;

final class Screens {
	private string $hook = '';

	public function hook( Loader $loader ): void {
		$loader->add_action( 'admin_menu', [ $this, 'menu' ] );
		$loader->add_action( 'admin_init', [ $this, 'settings' ] );
		$loader->add_action( 'admin_enqueue_scripts', [ $this, 'assets' ] );
		$loader->add_action( 'add_meta_boxes', [ $this, 'boxes' ] );
		$loader->add_action( 'manage_' . Plugin::TYPE . '_posts_columns', [ $this, 'columns' ] );
	}

	public function menu(): void {
		$this->hook = (string) add_menu_page( __( 'Desk', 'quay-desk' ), __( 'Desk', 'quay-desk' ), 'edit_posts', 'quay-desk', [ $this, 'desk' ] );
		add_submenu_page( 'options.php', __( 'Welcome', 'quay-desk' ), '', 'edit_posts', 'quay-desk-welcome', [ $this, 'desk' ] );
		add_submenu_page( 'quay-desk', __( 'Topics', 'quay-desk' ), __( 'Topics', 'quay-desk' ), 'edit_posts', 'edit-tags.php?taxonomy=desk_topic' );
	}

	public function settings(): void {
		register_setting( 'general', 'quay_desk_mail', [ 'sanitize_callback' => 'sanitize_email' ] );
		add_settings_field( 'quay_desk_mail', __( 'Desk mail', 'quay-desk' ), static fn() => print( '<input name="quay_desk_mail">' ), 'general' );
		register_setting( 'quay_desk', 'quay_desk_hours' );
		add_settings_section( 'hours', '', '__return_empty_string', 'quay-desk' );
		foreach ( [ 'from', 'to' ] as $name ) {
			add_settings_field( "quay_desk_$name", $name, [ $this, 'hour' ], 'quay-desk', 'hours', [ 'name' => $name ] );
		}
	}

	public function hour( array $given ): void {
		$hours = (array) get_option( 'quay_desk_hours', [] );
		printf( '<input name="quay_desk_hours[%1$s]" value="%2$s">', esc_attr( $given['name'] ), esc_attr( $hours[ $given['name'] ] ?? '' ) );
	}

	public function assets( string $hook ): void {
		if ( $hook !== $this->hook && ! in_array( $hook, [ 'toplevel_page_quay-desk', 'toplevel_page_quay-desk-network', 'post.php' ], true ) ) {
			return;
		}
		wp_add_inline_style( 'common', '.desk { color: navy; }' );
	}

	public function boxes( string $type ): void {
		if ( Plugin::TYPE === $type ) {
			add_meta_box( 'quay_desk', __( 'Desk', 'quay-desk' ), [ $this, 'box' ], null, 'side' );
		}
	}

	public function box( \WP_Post $post ): void {
		echo esc_html( (string) get_post_meta( $post->ID, 'desk_note', true ) );
		echo '<a href="' . esc_url( wp_nonce_url( admin_url( 'admin-post.php?action=quay_desk_close&id=' . $post->ID ), 'quay_desk_close_' . $post->ID ) ) . '">x</a>';
	}

	public function columns( array $columns ): array {
		return $columns + [ 'desk' => __( 'Desk', 'quay-desk' ) ];
	}

	public function desk(): void {
		echo '<div class="wrap"><h1>' . esc_html__( 'Desk', 'quay-desk' ) . '</h1><form method="post" action="options.php">';
		settings_fields( 'quay_desk' );
		do_settings_sections( 'quay-desk' );
		submit_button();
		echo '</form><a href="' . esc_url( admin_url( 'admin.php?page=wc-settings' ) ) . '">Shop</a> <a href="' . esc_url( admin_url( 'admin.php?page=quay-desk-welcome' ) ) . '">?</a></div>';
	}
}
